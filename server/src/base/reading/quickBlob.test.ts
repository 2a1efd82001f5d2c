import { expect, test } from '@jest/globals';
import { readEmail, readEmailBody } from '@fulvet/core';
import fc from 'fast-check';
import { replaceBlobs } from './quickBlob';

const LINES = [
  'From: Ida <ida@harbour.example>',
  'Subject: =?utf-8?Q?Gez=C3=A4hlt?=',
  'Content-Type: multipart/mixed; boundary=b',
  'Content-Type: text/html; charset=iso-8859-1',
  'Content-Type: text/plain; format=flowed; delsp=yes',
  'Content-Type: message/rfc822',
  'Content-Transfer-Encoding: base64',
  'Content-Transfer-Encoding: quoted-printable',
  'Content-Disposition: attachment; filename="täglich.txt"',
  '',
  'SGVsbG8gSWRhLCA=',
  'a line that is soft =',
  '=C3=A4=FF=0',
  'Grüße, 日本 🌊',
  '<p>Hello <b>Ida</b></p>',
  '--b',
  '--b--',
];

test('messages are read the same, byte for byte', async () => {
  const messages = fc
    .tuple(fc.array(fc.constantFrom(...LINES), { minLength: 1, maxLength: 30 }), fc.constantFrom('\r\n', '\n'))
    .map(([lines, end]) => new TextEncoder().encode(lines.join(end)));
  await fc.assert(
    fc.asyncProperty(messages, async (raw) => {
      const read = async (): Promise<unknown> => ({ facts: await readEmail(raw, { arrivedAt: 0 }), body: await readEmailBody(raw) });
      const usual = await read();
      const putBack = replaceBlobs();
      try {
        expect(await read()).toEqual(usual);
      } finally {
        putBack();
      }
    }),
    { numRuns: 600 },
  );
});
