import type { EmailDetail } from '@fulvet/contract';
import { expect, test } from '@jest/globals';
import { whyInOneSentence } from './whyInOneSentence';

type Entry = EmailDetail['docket'][number];
const entry = (step: Entry['step'], verdict: string, because: string[]): Entry => ({
  step,
  title: step,
  verdict,
  rule: null,
  ruleText: null,
  because,
});
const why = (outcome: EmailDetail['outcome'], docket: Entry[], questions: EmailDetail['questions'] = []): string =>
  whyInOneSentence({ outcome, docket, questions });
const through = entry('keepOut', 'Let through', []);
const taken = entry('takeIn', 'Taken in', ['By policy all mail with external people comes in.']);

test.each([
  [
    'filed',
    why('filed', [through, taken, entry('match', 'Matched', ['ida@harbour.example is the contact Ida Brandt.', 'Oriel is her account.'])]),
    'Filed because ida@harbour.example is the contact Ida Brandt.',
  ],
  [
    'kept out, by the last reason',
    why('kept out', [entry('keepOut', 'Kept out', ['x@law.example is ignored.', 'No other external participant is left.'])]),
    'Kept out because no other external participant is left.',
  ],
  [
    'not taken in',
    why('unfiled', [through, entry('takeIn', 'Left to its owner', ['By policy only mail with known people comes in.'])]),
    'Unfiled because by policy only mail with known people comes in.',
  ],
  [
    'no known person',
    why('unfiled', [through, taken, entry('match', 'No known person', ['It names no deal.'])]),
    'Unfiled because it names no deal.',
  ],
  [
    'waiting',
    why('waiting', [through, taken, entry('match', 'Waits', ['x'])], [{ about: 'deal', kind: 'deal', candidates: [], domain: null }]),
    'Waits: under which deal?',
  ],
  ['no reason', why('sealed', []), 'Sealed.'],
])('what decided is said in one sentence: %s', (_, said, expected) => {
  expect(said).toBe(expected);
});
