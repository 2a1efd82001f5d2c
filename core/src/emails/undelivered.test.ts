import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { readEmail } from './readEmail';
import { undeliveredIn } from './undelivered';

const report = (status: string, text = '', original = 'Message-ID: <sent-1@quillmere.example>\nSubject: Gauges'): string =>
  `From: MAILER-DAEMON@mx.harbour.example
To: rep@quillmere.example
Subject: Undelivered Mail Returned to Sender
MIME-Version: 1.0
Content-Type: multipart/report; report-type=delivery-status; boundary="b"

--b
Content-Type: text/plain; charset=utf-8

${text}

--b
Content-Type: message/delivery-status

Reporting-MTA: dns; mx.harbour.example

${status}

--b
Content-Type: message/rfc822

${original}

Hello
--b--
`.replace(/\n/g, '\r\n');

const read = async (raw: string) => (await readEmail(new TextEncoder().encode(raw), { arrivedAt: Date.UTC(2026, 5, 1) })).undelivered;

test('a delivery report names the address that does not exist, and the email that was sent to it', async () => {
  const status =
    'Final-Recipient: rfc822; Ida.Brandt@Harbour.example\nAction: failed\nStatus: 5.1.1\nDiagnostic-Code: smtp; 550 User unknown';
  expect(await read(report(status))).toEqual([
    { address: 'ida.brandt@harbour.example', messageId: 'sent-1@quillmere.example', why: 'no address', said: '550 User unknown' },
  ]);
});

test.each([
  ['it is only late', 'Final-Recipient: rfc822; ida@harbour.example\nAction: delayed\nStatus: 4.4.1'],
  ['it was passed on', 'Final-Recipient: rfc822; ida@harbour.example\nAction: relayed\nStatus: 2.1.1'],
])('where %s, nothing has failed', async (_, status) => {
  expect(await read(report(status))).toEqual([]);
});

test.each([
  ['5.2.2', '', 'mailbox full'],
  ['4.2.2', '', 'mailbox full'],
  ['5.3.4', '', 'too large'],
  ['5.7.1', 'smtp; 554 5.7.1 Rejected: user unknown to us', 'refused'],
  ['4.4.1', 'smtp; 451 timed out', 'not reached'],
  ['5.0.0', 'smtp; 550 Not today', 'other'],
  ['5.0.0', 'smtp; 550 No such user', 'no address'],
  ['', '', 'other'],
])('the code %s with %j says why: %s', async (code, diagnostic, why) => {
  const status = `Final-Recipient: rfc822; ida@harbour.example\nAction: failed\nStatus: ${code}${diagnostic && `\nDiagnostic-Code: ${diagnostic}`}`;
  expect(await read(report(status))).toMatchObject([{ address: 'ida@harbour.example', why, said: diagnostic.replace('smtp; ', '') }]);
});

test('a code that says nothing counts with its words, and each recipient for itself', async () => {
  const status = `Final-Recipient: rfc822; ida@harbour.example
Action: failed
Status: 5.0.0
Diagnostic-Code: smtp; 550 <ida@harbour.example>:
    Recipient address rejected: User unknown in virtual mailbox table

Final-Recipient: rfc822; jo@harbour.example
Action: delivered
Status: 2.0.0

Original-Recipient: rfc822;kim@harbour.example
Final-Recipient: rfc822;kim@mx7.harbour.example
Action: failed
Status: 5.1.10`;
  expect((await read(report(status))).map((item) => item.address)).toEqual(['ida@harbour.example', 'kim@harbour.example']);
});

test.each([
  ['en', '<ida@harbour.example>: host mx.harbour.example said: 550 5.1.1 User unknown', ['ida@harbour.example']],
  [
    'en, below',
    'ida@harbour.example\n    The email address you entered could not be found.\n    address not found',
    ['ida@harbour.example'],
  ],
  ['de', 'Die folgende Adresse:\nida@harbour.example\nEmpfänger unbekannt', ['ida@harbour.example']],
  ['fr', 'ida@harbour.example : utilisateur inconnu', ['ida@harbour.example']],
  ['full', 'ida@harbour.example: mailbox is full', []],
])('without its parts, the text tells (%s)', (_, text, addresses) => {
  const found = undeliveredIn({ text, statuses: [], originals: [], references: ['first@x', 'sent-2@quillmere.example'] });
  expect(found).toEqual(addresses.map((address) => ({ address, messageId: 'sent-2@quillmere.example', why: 'no address', said: '' })));
});

test('an email of a person about an unknown user is no report', async () => {
  const raw =
    'From: Ida <ida@harbour.example>\r\nTo: rep@quillmere.example\r\nSubject: Login\r\n\r\nThe box says: user unknown, kim@harbour.example\r\n';
  expect(await read(raw)).toEqual([]);
});

test('whatever a report holds, few addresses come out of it, in bounded time', () => {
  const piece = fc.constantFrom(
    'a@b.example ',
    'user unknown ',
    '\n',
    '\n\n',
    'Action: failed\n',
    'Status: 5.1.1\n',
    'Final-Recipient: rfc822; x@y.example\n',
    '@@@',
    '<',
    ';',
    'ä',
  );
  fc.assert(
    fc.property(fc.array(piece, { maxLength: 400 }), (pieces) => {
      const text = pieces.join('');
      const found = undeliveredIn({ text, statuses: [text], originals: [text], references: [] });
      expect(found.length).toBeLessThanOrEqual(50);
      expect(new Set(found.map((item) => item.address)).size).toBe(found.length);
    }),
    { numRuns: 100 },
  );
});
