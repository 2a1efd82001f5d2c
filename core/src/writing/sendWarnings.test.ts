import { describe, expect, test } from '@jest/globals';
import type { SendingTrace } from './sendingTrace';
import { whatTraceProves } from './sendingTrace';
import type { Recipient } from './sendWarnings';
import { sendWarnings } from './sendWarnings';

const recipient = (address: string, more: Partial<Recipient> = {}): Recipient => ({
  address,
  isOurs: false,
  isPublic: false,
  account: null,
  bounced: false,
  keptOutBy: null,
  erased: false,
  ...more,
});
const harbour = { id: 1, name: 'Harbour Works' };
const codes = (recipients: Recipient[], more: Partial<Parameters<typeof sendWarnings>[0]> = {}): string[] =>
  sendWarnings({ recipients, subject: 'Gauge', text: 'Hello', files: 0, ...more }).map(({ code, text }) => `${code}: ${text}`);

describe('before an email is sent', () => {
  test('an email to people of one company says nothing', () => {
    expect(
      codes([recipient('ida@harbour.example', { account: harbour }), recipient('finn@harbour-works.example', { account: harbour })]),
    ).toEqual([]);
    expect(
      codes([recipient('ida@harbour.example'), recipient('finn@harbour.example'), recipient('kim@quillmere.example', { isOurs: true })]),
    ).toEqual([]);
  });

  test('who is at another company than most is named', () => {
    const mixed = [recipient('ida@harbour.example', { account: harbour }), recipient('finn@harbour.example', { account: harbour })];
    expect(codes([...mixed, recipient('tove@morland.example')])).toEqual([
      'other company: tove@morland.example is at morland.example, the others at Harbour Works.',
    ]);
    expect(codes([recipient('tove@morland.example'), ...mixed])).toEqual([
      'other company: tove@morland.example is at morland.example, the others at Harbour Works.',
    ]);
  });

  test('a public provider is no company', () => {
    expect(codes([recipient('ida@harbour.example'), recipient('someone@post.example', { isPublic: true })])).toEqual([]);
  });

  test('kept out, erased, bounced, only colleagues, each with its reason', () => {
    expect(codes([recipient('a@x.example', { keptOutBy: 'Press', erased: true, bounced: true })])).toEqual([
      'kept out: a@x.example is kept out by Press. This email would not be filed.',
      'erased: a@x.example asked to be erased. Write only if they asked you to.',
      'bounced: The last email to a@x.example came back. Check the address.',
    ]);
    expect(codes([recipient('kim@quillmere.example', { isOurs: true })])).toEqual([
      'only colleagues: Only colleagues get this email. It would not be filed under a record.',
    ]);
    expect(codes([])).toEqual([]);
  });

  test.each(['The drawing is attached.', 'Anbei die Zeichnung.', 'Vous trouverez le plan ci-joint.', 'I am attaching the plan'])(
    'a file that is mentioned and not there: %s',
    (text) => {
      expect(codes([recipient('a@x.example')], { text })).toEqual(['no file: Your text mentions a file, and none is attached.']);
      expect(codes([recipient('a@x.example')], { text, files: 1 })).toEqual([]);
    },
  );

  test.each(['We are detached from it.', 'The attaché will come.', 'Attack'])('words that only look like it: %s', (text) => {
    expect(codes([recipient('a@x.example')], { text })).toEqual([]);
  });
});

describe('what became of an email whose handing over ended without a word', () => {
  const trace = (more: Partial<SendingTrace>): SendingTrace => ({ response: null, contentBegun: true, inSentFolder: null, ...more });

  test('is proven by the answer, by nothing having gone out, or by the sent folder', () => {
    expect(whatTraceProves(trace({ response: '250 OK', inSentFolder: false }))).toBe('sent');
    expect(whatTraceProves(trace({ contentBegun: false }))).toBe('not sent');
    expect(whatTraceProves(trace({}))).toBe('look');
    expect(whatTraceProves(trace({ inSentFolder: true }))).toBe('sent');
  });

  test('is unclear where nothing proves it: never that it was not sent', () => {
    expect(whatTraceProves(trace({ inSentFolder: false }))).toBe('unclear');
  });
});
