import { expect, test } from '@jest/globals';
import { readEmail, withoutBcc } from '@fulvet/core';
import type { MailToCompose } from './composeMail';
import { composeMail, textOf } from './composeMail';

const mail: MailToCompose = {
  from: { name: 'Rep Ärmel', address: 'rep@quillmere.example' },
  to: [{ name: 'Ida Brandt', address: 'ida@harbour.example' }],
  cc: [],
  bcc: [{ name: '', address: 'hidden@quillmere.example' }],
  subject: 'Gauge für Quay 4, 潮位計 and a long subject that goes on and on until it has to be folded by whoever writes it down',
  html: '<p>Dear Ida,</p><p>here is <strong>the gauge</strong>.</p>',
  messageId: 'id-1@quillmere.example',
  inReplyTo: 'q@harbour.example',
  references: ['a@harbour.example', 'q@harbour.example'],
  at: new Date('2026-05-04T10:00:00Z'),
  files: [{ name: 'Plän "4".txt', type: 'text/plain', content: Buffer.from('plan') }],
};
const read = async (more: Partial<MailToCompose> = {}) => readEmail(await composeMail({ ...mail, ...more }), { arrivedAt: Date.now() });

test('what is composed reads as it was written', async () => {
  const facts = await read();
  expect(facts).toMatchObject({
    messageId: 'id-1@quillmere.example',
    references: ['a@harbour.example', 'q@harbour.example'],
    subject: mail.subject,
    date: { at: mail.at.getTime() },
    hasHtml: true,
    mailClass: 'person',
    problems: [],
  });
  expect(facts.text.trim()).toBe('Dear Ida,\n\nhere is the gauge.');
  expect(facts.attachments.map(({ name, size }) => [name, size])).toEqual([['Plän "4".txt', 4]]);
  expect(facts.participants.map(({ role, name, address }) => `${role} ${name} ${address}`)).toEqual([
    'from Rep Ärmel rep@quillmere.example',
    'to Ida Brandt ida@harbour.example',
    'bcc  hidden@quillmere.example',
  ]);
});

test('blind copies are in the writer’s copy and in no other', async () => {
  const source = await composeMail(mail);
  expect(source.toString()).toContain('hidden@quillmere.example');
  expect(Buffer.from(withoutBcc(source)).toString()).not.toContain('hidden@quillmere.example');
});

test.each([
  ['a name', { to: [{ name: 'Ida\r\nBcc: spy@x.example', address: 'ida@harbour.example' }] }],
  ['a subject', { subject: 'Gauge\r\nBcc: spy@x.example\r\n\r\nbody' }],
  ['a file name', { files: [{ name: 'a.txt\r\nBcc: spy@x.example', type: 'text/plain', content: Buffer.from('x') }] }],
  ['a type', { files: [{ name: 'a.txt', type: 'text/plain\r\nBcc: spy@x.example', content: Buffer.from('x') }] }],
  ['a reference', { references: ['a@x.example>\r\nBcc: <spy@x.example'] }],
])('%s writes no field of its own', async (_, more) => {
  const facts = await read({ bcc: [], ...more });
  expect(facts.participants.filter(({ role }) => role === 'bcc')).toEqual([]);
  expect(facts.participants.map(({ address }) => address)).not.toContain('spy@x.example');
});

test('the plain text marks what is quoted', () => {
  expect(textOf('<p>Yes.</p><p>On 4 May, Ida wrote:</p><blockquote><p>When?<br>And where?</p></blockquote>')).toBe(
    'Yes.\n\nOn 4 May, Ida wrote:\n\n> When?\n> And where?',
  );
});

test('the plain text says where links lead', () => {
  const html =
    '<p>See the <a rel="x" href="https://fulvet.example/d/a?b=1&amp;c=2"><strong>price</strong> list</a> and <a href="https://quillmere.example">https://quillmere.example</a>.</p>';
  expect(textOf(html)).toBe('See the price list (https://fulvet.example/d/a?b=1&c=2) and https://quillmere.example.');
});

test('a line of a dot, and lines longer than SMTP carries, come through', async () => {
  const long = 'x'.repeat(5000);
  const facts = await read({ html: `<p>.</p><p>${long}</p>`, files: [] });
  expect(facts.text.replace(/\s+/g, ' ').trim()).toBe(`. ${long}`);
  const source = (await composeMail({ ...mail, html: `<p>.</p><p>${long}</p>`, files: [] })).toString();
  expect(Math.max(...source.split('\r\n').map((line) => line.length))).toBeLessThan(999);
});
