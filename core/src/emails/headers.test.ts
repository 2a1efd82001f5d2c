import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import PostalMime from 'postal-mime';
import { withoutPeopleFields } from './headers';

const text = (raw: Uint8Array): string => new TextDecoder().decode(raw);
const bytes = (message: string): Uint8Array => new TextEncoder().encode(message);

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
