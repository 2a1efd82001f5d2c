import { expect, test } from '@jest/globals';
import { readEmail } from './readEmail';
import { rewrittenAuthor } from './rewrittenAuthor';
import { receiverOf } from './senderCheck';

const fields = (headers: Record<string, string>) => Object.entries(headers).map(([name, value]) => ({ name: name.toLowerCase(), value }));

test.each([
  ["'Ida Brandt' via Sales <sales@quillmere.example>", 'Ida Brandt <ida@harbour.example>', 'Ida Brandt'],
  ['"Brandt, Ida via Gauges" <gauges@lists.example>', 'Ida Brandt <ida@harbour.example>', 'Brandt, Ida'],
  ['Ida Brandt via Sales <sales@quillmere.example>', 'ida@harbour.example', 'Ida Brandt'],
  ['Ida Brandt via Sales <sales@quillmere.example>', 'ida@harbour.example, Sales <sales@quillmere.example>', 'Ida Brandt'],
])('%s with answers to %s was written by her', (from, reply, name) => {
  expect(rewrittenAuthor(fields({ From: from, 'Reply-To': reply }))).toMatchObject({ author: { address: 'ida@harbour.example', name } });
});

test('the original From names the author, whoever is to be answered', () => {
  const rewritten = fields({
    From: "'Ida Brandt' via Sales <sales@quillmere.example>",
    'X-Original-From': 'Ida Brandt <ida@harbour.example>',
    'Reply-To': 'sales@quillmere.example',
  });
  expect(rewrittenAuthor(rewritten)).toEqual({
    by: 'group',
    author: { address: 'ida@harbour.example', name: 'Ida Brandt' },
    via: { address: 'sales@quillmere.example', name: 'Sales' },
  });
});

test.each([
  ['web-form@quillmere.example', 'sales@quillmere.example'],
  ['"Our site" <noreply@quillmere.example>', 'sales@quillmere.example, hedda@quillmere.example'],
  ['contact@quillmere.example', 'contact@quillmere.example'],
])('what someone wrote in a form of the site, sent by %s to %s, is theirs', (from, to) => {
  const form = { From: from, To: to, 'Reply-To': 'Una Hartwig <una@ferries.example>' };
  expect(rewrittenAuthor(fields(form))?.author).toEqual({ address: 'una@ferries.example', name: 'Una Hartwig' });
  for (const other of [
    { ...form, 'Reply-To': 'hedda@quillmere.example' },
    { ...form, 'Reply-To': 'support@tool.example' },
    { ...form, To: 'sales@quillmere.example, una@ferries.example' },
    { ...form, From: 'hedda@quillmere.example' },
  ])
    expect(rewrittenAuthor(fields(other))).toBeNull();
});

test.each([
  ['a sender who has answers sent elsewhere', 'Ida Brandt <ida@harbour.example>', 'Ida at home <ida@post.example>'],
  ['a ticket desk', 'Ida Brandt via Desk <desk@harbour.example>', 'Desk <desk+8812@harbour.example>'],
  ['answers to several', 'Ida Brandt via Sales <sales@quillmere.example>', 'ida@harbour.example, jo@harbour.example'],
  ['answers to the group', 'Ida Brandt via Sales <sales@quillmere.example>', 'sales@quillmere.example'],
  ['no answers wanted', 'Ida Brandt via Sales <sales@quillmere.example>', ''],
  ['two senders', 'Ida via Sales <sales@quillmere.example>, jo@harbour.example', 'ida@harbour.example'],
])('%s: From stands as it is', (_, from, reply) => {
  expect(rewrittenAuthor(fields({ From: from, 'Reply-To': reply }))).toBeNull();
});

const AT_HOME = { arrivedAt: Date.UTC(2026, 4, 5), receiver: receiverOf(['quillmere.example'], 'hedda@quillmere.example', null) };

test('the email is of its author, and the group is its sender', async () => {
  const raw = [
    "From: 'Ida Brandt' via Sales <sales@quillmere.example>",
    'Reply-To: Ida Brandt <ida@harbour.example>',
    'To: sales@quillmere.example',
    'Subject: Gauges',
    'Date: Mon, 4 May 2026 10:00:00 +0000',
    'Message-ID: <a@x>',
    '',
    'Hello',
  ].join('\r\n');
  const { participants, mailClass } = await readEmail(new TextEncoder().encode(raw), AT_HOME);
  expect(participants.map(({ role, address, name }) => `${role} ${name} ${address}`)).toEqual([
    'from Ida Brandt ida@harbour.example',
    'sender Sales sales@quillmere.example',
    'replyTo Ida Brandt ida@harbour.example',
    'to  sales@quillmere.example',
  ]);
  expect(mailClass).toBe('person');
});

test('a form wants answers, whatever address it has', async () => {
  const raw =
    'From: noreply@quillmere.example\r\nReply-To: una@ferries.example\r\nTo: sales@quillmere.example\r\nSubject: Enquiry\r\n\r\nx';
  const { mailClass, participants } = await readEmail(new TextEncoder().encode(raw), AT_HOME);
  expect([mailClass, participants[0]]).toMatchObject(['person', { role: 'from', address: 'una@ferries.example' }]);
});

test('what takes no answers stays machine mail, whoever is named as its author', async () => {
  const raw =
    'From: Ida Brandt via Post <no-reply@post.example>\r\nReply-To: ida@harbour.example\r\nTo: a@b.example\r\nSubject: Sign this\r\n\r\nx';
  expect((await readEmail(new TextEncoder().encode(raw), { arrivedAt: Date.UTC(2026, 4, 5) })).mailClass).toBe('notice');
});
