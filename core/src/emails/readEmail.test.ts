import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { EmailFacts } from './emailFacts';
import { readEmail, readEmailBody } from './readEmail';

const arrivedAt = Date.UTC(2026, 4, 10);
const read = (text: string, envelope?: { sender: string; date: number | null }) =>
  readEmail(new TextEncoder().encode(text.replace(/\n/g, '\r\n')), envelope ? { arrivedAt, envelope } : { arrivedAt });
const base =
  'From: Ida <ida@harbour.example>\nTo: tomas@quillmere.example\nDate: Mon, 4 May 2026 10:00:00 +0000\nMessage-ID: <one@harbour.example>\nSubject: Gauge\n';

describe('readEmail', () => {
  test('reads who, when, what, and what it answers', async () => {
    const facts = await read(`${base}Cc: "Brandt, Jo" <jo@harbour.example>\nReferences: <a@x> <b@x>\nIn-Reply-To: <b@x>\n\nHello`);
    expect(facts).toMatchObject({
      messageId: 'one@harbour.example',
      references: ['a@x', 'b@x'],
      subject: 'Gauge',
      mailClass: 'person',
      text: 'Hello\n',
      deliveredTo: [],
      problems: [],
    });
    expect(facts.participants.map((participant) => `${participant.role} ${participant.address} ${participant.name}`)).toEqual([
      'from ida@harbour.example Ida',
      'to tomas@quillmere.example ',
      'cc jo@harbour.example Brandt, Jo',
    ]);
    expect(new Date(facts.date.at).toISOString()).toBe('2026-05-04T10:00:00.000Z');
  });

  test('without References, the first id of In-Reply-To counts', async () => {
    expect((await read(`${base}In-Reply-To: Your letter <b@x> <c@x>\n\nx`)).references).toEqual(['b@x']);
  });

  test.each([
    ['Auto-Submitted: auto-replied', 'auto-reply', 'Auto-Submitted'],
    ['Auto-Submitted: auto-generated', 'notice', 'Auto-Submitted'],
    ['List-Unsubscribe: <mailto:x@y.example>', 'newsletter', 'List-Unsubscribe'],
    ['List-Id: <news.y.example>', 'newsletter', 'List-Id'],
    ['Precedence: bulk', 'newsletter', 'Precedence'],
    ['Precedence: auto_reply', 'auto-reply', 'Precedence'],
    ['Content-Type: multipart/report; report-type=delivery-status; boundary=b', 'bounce', 'Content-Type'],
    ['Return-Path: <>', 'notice', 'Return-Path'],
    ['Auto-Submitted: no', 'person', undefined],
  ])('%s makes it %s', async (header, mailClass, proof) => {
    const facts = await read(`${header}\n${base}\nx`);
    expect([facts.mailClass, facts.classProof?.header]).toEqual([mailClass, proof]);
  });

  test.each([
    ['ida@harbour.example', 'Automatic reply: Offer', true, 'auto-reply'],
    ['ida@harbour.example', '=?utf-8?Q?R=C3=A9ponse_automatique_:_Offre?=', true, 'auto-reply'],
    ['ida@harbour.example', 'Abwesenheitsnotiz: Angebot', true, 'auto-reply'],
    ['ida@harbour.example', 'Automatic reply: how to switch it off?', false, 'person'],
    ['ida@harbour.example', 'Re: Automatic reply: Offer', true, 'person'],
    ['mailer-daemon@harbour.example', 'Undeliverable: Offer', false, 'bounce'],
    ['postmaster@harbour.example', 'Delivery Status Notification (Failure)', false, 'bounce'],
    ['postmaster@harbour.example', 'Your mailbox moves', false, 'person'],
    ['ida@harbour.example', 'Undeliverable: the pallet', false, 'person'],
  ])('%s writes “%s”, an answer or not: %s, and it is %s', async (from, subject, isAnswer, mailClass) => {
    const answered = isAnswer ? 'In-Reply-To: <offer@quillmere.example>\n' : '';
    const facts = await read(`From: ${from}\nTo: rep@quillmere.example\nSubject: ${subject}\n${answered}\nx`);
    expect([facts.mailClass, facts.classProof?.header]).toEqual([mailClass, mailClass === 'person' ? undefined : 'Subject']);
  });

  test('a no-reply sender is a notice, a calendar part a calendar email', async () => {
    expect((await read(base.replace('ida@harbour', 'no-reply@harbour') + '\nx')).mailClass).toBe('notice');
    const invite = `${base}Content-Type: text/calendar; method=REQUEST\n\nBEGIN:VCALENDAR\nEND:VCALENDAR`;
    expect((await read(invite)).mailClass).toBe('calendar');
  });

  test.each([
    ['a date in the future', base.replace('2026', '2036'), 'future-date', 'arrival'],
    ['no date', base.replace(/Date:.*\n/, ''), 'no-date', 'arrival'],
    ['a date that cannot be read', base.replace(/Date:.*/, 'Date: soon'), 'bad-date', 'arrival'],
    [
      'a future date with a trace',
      `Received: from a by b; Tue, 5 May 2026 09:00:00 +0000\n${base.replace('2026', '2036')}`,
      'future-date',
      'received',
    ],
  ])('%s is named and stood in for', async (_, source, code, from) => {
    const facts = await read(`${source}\nx`);
    expect([facts.problems[0]?.code, facts.date.source]).toEqual([code, from]);
    expect(facts.date.at).toBeLessThanOrEqual(arrivedAt);
  });

  test('the mbox separator stands in for sender and date', async () => {
    const facts = await read('Subject: x\n\ny', { sender: 'ida@harbour.example', date: Date.UTC(2026, 3, 1) });
    expect(facts.participants).toMatchObject([{ role: 'from', address: 'ida@harbour.example' }]);
    expect(facts.date).toMatchObject({ source: 'envelope', at: Date.UTC(2026, 3, 1) });
  });

  test('NUL bytes and lone surrogates do no harm', async () => {
    const facts = await read(`${base}X-Odd: a\0b\n\nHel\0lo =ED=A0=80`);
    expect(JSON.stringify(facts)).not.toContain('\\u0000');
    expect(facts.text.isWellFormed()).toBe(true);
  });

  test('MIME nested a thousand deep is kept as plain text and named', async () => {
    let nested = '\ntext';
    for (let depth = 0; depth < 1000; depth += 1)
      nested = `Content-Type: multipart/mixed; boundary=b${depth}\n\n--b${depth}\n${nested}\n--b${depth}--\n`;
    const facts = await read(base + nested);
    expect(facts.problems.map((problem) => problem.code)).toEqual(['broken-mime']);
    expect(facts.subject).toBe('Gauge');
  });

  test('a header of 10 MB, a subject of 1 MB and 10,000 recipients do no harm', async () => {
    const recipients = Array.from({ length: 10_000 }, (_, at) => `p${at}@x.example`).join(',\n ');
    const facts = await read(
      `From: ida@harbour.example\nX-Large: ${'y'.repeat(10_000_000)}\nTo: ${recipients}\nSubject: ${'s'.repeat(1_000_000)}\n\nx`,
    );
    expect(facts.subject).toHaveLength(2000);
    expect(facts.problems.map((problem) => problem.code)).toContain('shortened');
    expect((await read(`From: a@x.example\nTo: ${recipients}\n\nx`)).participants).toHaveLength(1_000);
  });

  test('any bytes are read without failing', async () => {
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 400 }), async (bytes) => {
        const facts = await readEmail(bytes, { arrivedAt });
        expect(facts.size).toBe(bytes.length);
      }),
      { numRuns: 200 },
    );
  });

  test('gives attachments with their content when asked', async () => {
    const source = `${base}Content-Type: multipart/mixed; boundary=b\n\n--b\n\nSee file\n--b\nContent-Type: application/pdf; name="quote.pdf"\nContent-Disposition: attachment; filename="quote.pdf"\nContent-Transfer-Encoding: base64\n\naGVsbG8=\n--b--`;
    expect((await read(source)).attachments).toMatchObject([{ name: 'quote.pdf', type: 'application/pdf', size: 5, inline: false }]);
    const body = await readEmailBody(new TextEncoder().encode(source));
    expect(new TextDecoder().decode(body.attachments[0]?.content)).toBe('hello');
  });
});

describe('an email through a list', () => {
  const through = (from: string, ...headers: string[]): Promise<EmailFacts> =>
    read(
      [
        `From: ${from}`,
        'To: gauges@lists.harbour.example',
        'Subject: [gauges] Pier 4',
        'List-Id: <gauges.lists.harbour.example>',
        ...headers,
        '',
        'Who has one?',
      ].join('\r\n'),
    );

  test.each([
    [
      'Ida Brandt <ida.brandt@harbour.example>',
      ['List-Post: <mailto:gauges@lists.harbour.example>', 'List-Unsubscribe: <mailto:leave@lists.harbour.example>', 'Precedence: list'],
    ],
    ['Ida Brandt <ida.brandt@harbour.example>', ['Precedence: list', 'In-Reply-To: <first@harbour.example>']],
  ])('on which people talk is its author’s: %s %j', async (from, headers) =>
    expect((await through(from, ...headers)).mailClass).toBe('person'),
  );

  test.each([
    ['Harbour News <news@harbour.example>', ['List-Post: <mailto:gauges@lists.harbour.example>']],
    ['Ida Brandt <ida.brandt@harbour.example>', ['List-Post: NO', 'List-Unsubscribe: <mailto:leave@lists.harbour.example>']],
    ['Ida Brandt <ida.brandt@harbour.example>', ['List-Post: <mailto:gauges@lists.harbour.example>', 'Precedence: bulk']],
    ['Ida Brandt <ida.brandt@harbour.example>', []],
  ])('to which no one else posts is a newsletter: %s %j', async (from, headers) =>
    expect((await through(from, ...headers)).mailClass).toBe('newsletter'),
  );
});
