import { describe, expect, test } from '@jest/globals';
import { MAX_PARTICIPANTS } from './emailFacts';
import { readEmail } from './readEmail';

const read = (source: string) => readEmail(new TextEncoder().encode(source), { arrivedAt: Date.parse('2026-05-05T00:00:00Z') });
const head = 'From: Ida <ida@harbour.example>\nDate: Mon, 4 May 2026 10:00:00 +0000\nMessage-ID: <a@harbour.example>\n';

describe('what no one writes by hand is read in part, and said so', () => {
  test('60,000 recipients', async () => {
    const to = Array.from({ length: 60_000 }, (_, at) => `p${at}@x.example`).join(', ');
    const facts = await read(`${head}To: ${to}\n\nHello`);
    expect(facts.participants).toHaveLength(MAX_PARTICIPANTS);
    expect(facts.participants[0]).toMatchObject({ role: 'from', address: 'ida@harbour.example' });
    expect(facts.problems.map((problem) => problem.message).join()).toContain('the first 1000 count');
  });

  test('400 recipients are all there', async () => {
    const to = Array.from({ length: 400 }, (_, at) => `p${at}@x.example`).join(', ');
    expect((await read(`${head}To: ${to}\n\nHello`)).participants).toHaveLength(401);
  });

  test('10,000 references: the first, and those before it', async () => {
    const references = Array.from({ length: 10_000 }, (_, at) => `<r${at}@x.example>`).join(' ');
    const facts = await read(`${head}References: ${references}\n\nHello`);
    expect(facts.references).toHaveLength(200);
    expect([facts.references[0], facts.references.at(-1)]).toEqual(['r0@x.example', 'r9999@x.example']);
  });

  test('5,000 parts', async () => {
    const parts = Array.from(
      { length: 5_000 },
      (_, at) => `--b\nContent-Type: application/pdf; name=f${at}.pdf\nContent-Disposition: attachment\n\n${at}\n`,
    ).join('');
    const facts = await read(`${head}Content-Type: multipart/mixed; boundary=b\n\n${parts}--b--`);
    expect(facts.attachments).toHaveLength(1_000);
    expect(facts.problems.map((problem) => problem.message).join()).toContain('has 5000 attachments');
  });
});

test.each(['--b--', ' a', '@', '< a', '<  ', '(,'])('a header of 200,000 times %j is read like any other', async (piece) => {
  const facts = await read(`Message-ID: ${piece.repeat(200_000)}\nIn-Reply-To: ${piece.repeat(200_000)}\n\nHello`);
  expect(facts.text.trim()).toBe('Hello');
});
