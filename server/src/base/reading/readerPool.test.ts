import { afterEach, describe, expect, test } from '@jest/globals';
import { readEmails } from './readEmails';
import { ReaderPool, ReadingGivenUp } from './readerPool';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const message = (text: string): { raw: Uint8Array; options: { arrivedAt: number } } => ({
  raw: bytes(`From: Ida <ida@harbour.example>\nTo: kim@quillmere.example\nSubject: Gauge\n\n${text}`),
  options: { arrivedAt: 0 },
});
/** Takes far longer to read than any other. */
const poison = message(`x\n${'<'.repeat(10)}${'a'.repeat(40_000_000)}`);

let pool: ReaderPool;
afterEach(() => pool.close());

describe('what is read in threads of its own', () => {
  test('comes back in its order, from several threads', async () => {
    pool = new ReaderPool({ threads: 2 });
    const texts = Array.from({ length: 300 }, (_, at) => `number ${at}`);
    const read = await readEmails(pool, texts.map(message));
    expect(read.map((facts) => facts.text.trim())).toEqual(texts);
  });

  test('leaves the process free to serve people meanwhile', async () => {
    pool = new ReaderPool({ threads: 1 });
    const reading = pool.read('emails', [poison]);
    let turns = 0;
    let done = false;
    void reading.then(
      () => (done = true),
      () => (done = true),
    );
    while (!done) {
      await new Promise((resolve) => setImmediate(resolve));
      turns += 1;
    }
    await reading;
    expect(turns).toBeGreaterThan(20);
  });

  test('is given up after its time, and the next is read', async () => {
    pool = new ReaderPool({ threads: 1, deadline: 40 });
    await expect(pool.read('emails', [poison])).rejects.toThrow(ReadingGivenUp);
    const calm = new ReaderPool({ threads: 1 });
    expect(await calm.read('emails', [message('after')])).toMatchObject([{ text: 'after\n' }]);
    await calm.close();
  });

  test('is given up when it grows too large, and the next is read', async () => {
    pool = new ReaderPool({ threads: 1, memory: 24 });
    const rows = 'a,b\n'.repeat(1_500_000);
    await expect(pool.read('table', { text: rows, format: 'csv' })).rejects.toMatchObject({ reason: 'memory' });
    expect(await pool.read('table', { text: 'name\nOriel', format: 'csv' })).toMatchObject({ rows: [{ values: { name: 'Oriel' } }] });
  });

  test('stays unread with its reason, and takes no other message with it', async () => {
    pool = new ReaderPool({ threads: 1, deadline: 1_500 });
    const endless = { raw: bytes(`Subject: x\nContent-Type: text/html\n\n${'<b>'.repeat(16_000_000)}`), options: { arrivedAt: 7 } };
    const read = await readEmails(pool, [message('one'), message('two'), endless, message('three')]);
    expect(read.map((facts) => facts.text.trim())).toEqual(['one', 'two', '', 'three']);
    expect(read[2]).toMatchObject({ participants: [], date: { at: 7 }, problems: [{ code: 'not-read' }], size: endless.raw.length });
    expect(read[2]?.problems[0]?.message).toMatch(/kept unread.*more than 1.5 seconds.*can be downloaded/);
  });

  test('what waits when the server stops is not called unreadable', async () => {
    pool = new ReaderPool({ threads: 1 });
    const reading = readEmails(pool, [poison, message('waits')]);
    const stopped = expect(reading).rejects.toThrow('Fulvet is stopping');
    await pool.close();
    await stopped;
  });
});
