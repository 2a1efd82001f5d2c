import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import PostalMime from 'postal-mime';
import { readHeaders } from './headers';
import { withoutBcc, withoutPeopleFields } from './withoutFields';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const text = (raw: Uint8Array): string => new TextDecoder().decode(raw);

test.each([
  ['From: a@x.example\r\nBcc: b@x.example\r\nTo: c@x.example\r\n\r\nBcc: stays', 'From: a@x.example\r\nTo: c@x.example\r\n\r\nBcc: stays'],
  ['BCC : b@x.example,\n\tc@x.example\nresent-bcc: d@x.example\nTo: e@x.example\n\nHello', 'To: e@x.example\n\nHello'],
  ['\r\nBcc: b@x.example\r\nTo: e@x.example\r\n\r\nHello', '\r\nTo: e@x.example\r\n\r\nHello'],
  ['To: e@x.example\nBcc: b@x.example', 'To: e@x.example\n'],
  ['no header at all', 'no header at all'],
])('%j without its blind copies is %j', (raw, rest) => {
  expect(text(withoutBcc(bytes(raw)))).toBe(rest);
});

test('no reader of headers finds blind copies in what is left, and everything else is there', () => {
  const line = fc.oneof(
    fc.constantFrom(
      'Bcc: b@x.example',
      'bCC :x',
      ' folded',
      '\tfolded',
      'To: c@x.example',
      'X-Bcc: no',
      '',
      'nonsense',
      ':',
      'Resent-Bcc:y',
    ),
    fc.string({ maxLength: 20 }),
  );
  fc.assert(
    fc.property(fc.array(line), fc.constantFrom('\n', '\r\n', '\r'), (lines, end) => {
      const raw = bytes(['Subject: Gauges', ...lines].join(end));
      const before = readHeaders(raw).fields.filter(({ name }) => name !== 'bcc' && name !== 'resent-bcc');
      expect(readHeaders(withoutBcc(raw)).fields).toEqual(before);
    }),
    { numRuns: 500 },
  );
});

test.each([
  [
    'fields of people go, with their continuations',
    'From: a\r\nSubject: s\r\nTo: b,\r\n c\r\n\td\r\nX: y\r\n\r\nTo: body',
    'Subject: s\r\nX: y\r\n\r\nTo: body',
  ],
  ['the last field', 'Subject: s\nBcc: b\n\nbody\n', 'Subject: s\n\nbody\n'],
  ['a header without a body', 'Subject: s\nBcc: b', 'Subject: s\n'],
  ['names that only begin so', 'Tower: x\nFromage: y\n\nbody', 'Tower: x\nFromage: y\n\nbody'],
  ['nothing', '', ''],
  ['people alone', 'To: b\n\nbody', '\nbody'],
  ['a first line that begins with a space', ' Bcc: b\nSubject: s\n\nbody', 'Subject: s\n\nbody'],
  ['a line that begins no field goes with its field', 'To: a\nb@c.example\nSubject: s\n\nbody', 'Subject: s\n\nbody'],
])('%s', (_, before, after) => {
  expect(text(withoutPeopleFields(bytes(before)))).toBe(after);
});

const LINES = [
  'From: Ida <ida@harbour.example>',
  'To: a@x.example,\r\n b@y.example',
  'Content-Type: multipart/mixed; boundary=b',
  'Content-Type: text/html',
  'content-transfer-encoding: base64',
  'Received: from a\r\n\tby b',
  'References: <a> <b>',
  ' continued: x',
  'no field',
  '',
  'SGVsbG8=',
  '--b',
  '--b--',
  'Content-Disposition: attachment; filename="to: x"',
];

test('the MIME library reads the same body with and without them', async () => {
  const bodyOf = async (raw: Uint8Array) => {
    const { text: plain, html, attachments } = await PostalMime.parse(raw);
    return { plain, html, attachments };
  };
  const messages = fc
    .tuple(fc.array(fc.constantFrom(...LINES), { minLength: 1, maxLength: 14 }), fc.constantFrom('\r\n', '\n'))
    .map(([lines, end]) => bytes(lines.join(end)));
  await fc.assert(
    fc.asyncProperty(messages, async (message) => {
      expect(await bodyOf(withoutPeopleFields(message))).toEqual(await bodyOf(message));
    }),
    { numRuns: 1500 },
  );
});
