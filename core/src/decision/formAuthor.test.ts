import { expect, test } from '@jest/globals';
import type { Participant } from '../emails/emailFacts';
import { NO_MEMORY } from '../facts/types';
import { compileRulebook } from '../rulebook/compile';
import type { Rulebook } from '../rulebook/schema';
import { cautiousRulebook } from '../rulebook/schema';
import { directory, factsOf, OUR } from '../testing/ruleWorld';
import { decide } from './decide';
import { docketSentences } from './docketSentences';

const FORM = 'website@forms.example';
const person = (role: Participant['role'], address: string): Participant => ({
  role,
  address,
  domain: address.slice(address.indexOf('@') + 1),
  name: '',
});
const names = (rulebook: Rulebook): void => void rulebook.us.formAddresses.push('Website@Forms.example');

function decidedOf(more: object, participants: readonly Participant[], change: (rulebook: Rulebook) => void = names) {
  const rulebook = cautiousRulebook(['quillmere.example']);
  change(rulebook);
  const compiled = compileRulebook(rulebook, { teamAddresses: [OUR], publicProviders: new Set(), roleLocals: new Set() });
  return decide({ ...factsOf({}), ...more, participants }, compiled, directory(), NO_MEMORY, { next: () => -1 });
}

const filled = [person('from', FORM), person('sender', FORM), person('replyTo', 'ida@harbour.example'), person('to', OUR)];

test('an email from a form that the administrator named is from whoever filled it in', () => {
  const decision = decidedOf({}, filled);
  expect(decision).toMatchObject({ direction: 'received', externals: ['ida@harbour.example'], outcome: 'filed' });
  expect(decision.filings.map(({ kind, id }) => `${kind} ${id}`)).toEqual(['contact 1', 'account 10']);
  expect(docketSentences(decision.docket)[0]?.because[0]).toBe(
    'It came from the form at website@forms.example: whoever filled it in is its sender.',
  );
});

test('that a machine passes it on makes it no machine’s', () => {
  const notice = { mailClass: 'notice', classProof: { header: 'Auto-Submitted', value: 'auto-generated' } };
  expect(decidedOf(notice, filled).outcome).toBe('filed');
  expect(decidedOf(notice, filled, () => undefined).outcome).toBe('kept out');
  expect(decidedOf({ ...notice, mailClass: 'bounce' }, filled).outcome).toBe('kept out');
});

test.each([
  ['not named', filled, () => undefined],
  ['a colleague filled it in', [person('from', FORM), person('replyTo', 'kim@quillmere.example'), person('to', OUR)], names],
  ['no one is named in Reply-To', [person('from', FORM), person('to', OUR)], names],
])('it stays as it is where it is %s', (_, participants, change) => {
  expect(decidedOf({}, participants, change).externals).toEqual([FORM]);
});

test('who is named in an email that the receiving server could not confirm is not believed', () => {
  expect(decidedOf({ senderCheck: 'failed' }, filled).externals).toEqual([FORM]);
});

test('another Reply-To of an address that is no form stays what it is', () => {
  const mail = [person('from', 'jo@harbour.example'), person('replyTo', 'ida@harbour.example'), person('to', OUR)];
  expect(decidedOf({}, mail).externals).toEqual(['jo@harbour.example']);
});
