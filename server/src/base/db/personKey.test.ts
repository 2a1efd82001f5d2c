import { routeTo } from '../../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { addressKey, withoutTag } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { changeRulebook, importMail, mbox, setUpCrew, startTestServer } from '../../testing/testServer';
import type { Crew, TestServer } from '../../testing/testServer';
import { loadExchanges } from '../../decision/inputs/loadExchanges';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { personKeyInSql } from './personKey';
import { rowsOf } from './rows';

let server: TestServer;
let crew: Crew;
const REP = 'rep@quillmere.example';

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await server.call(routeTo('importRecords', { kind: 'account' }), {
    token: crew.tokens.admin,
    body: { text: 'name,domains\nHarbour Oriel,harbour.example\n' },
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    rulebook.share.level = 'everyone';
  });
  await importMail(server, crew.tokens.admin, REP, {
    'rep.mbox': mbox(
      ['ida@harbour.example', 'ida+orders@harbour.example', 'ida+orders@harbour.example', 'ola@harbour.example'].map((from, at) => ({
        id: `m${at}`,
        from,
        to: REP,
        subject: `No ${at}`,
        text: `word ${at}`,
        date: `Mon, ${2 + at} Nov 2026 08:00:00 +0000`,
      })),
    ),
  });
}, 60_000);
afterAll(() => server.remove());

/** Local parts as they come in mail, made at random. */
function addresses(): string[] {
  const parts = ['ida', '+', 'orders', '.', 'x+y', '++', '+a', 'a+', 'ä', '-'];
  let state = 11;
  const next = (most: number): number => (state = (state * 48_271) % 2_147_483_647) % most;
  const made = Array.from({ length: 400 }, () => Array.from({ length: 1 + next(4) }, () => parts[next(parts.length)] ?? '').join(''));
  // As participants are stored: with the tag.
  return [...new Set(made.flatMap((local) => addressKey(`${local}@harbour.example`, { tagsTellApart: true })?.key ?? []))];
}

describe.each([true, false])('where tags tell people apart: %s', (tagsTellApart) => {
  test('the database tells people apart as the rulebook does', async () => {
    const all = addresses();
    expect(all.length).toBeGreaterThan(100);
    const rows = await rowsOf(
      server.services.database.worker,
      z.object({ address: z.string(), key: z.string() }),
      sql`SELECT a.address, ${personKeyInSql({ tagsTellApart }, sql`a.address`)} AS key FROM unnest(${sql.param(all)}::text[]) AS a(address)`,
    );
    const different = rows.filter(({ address, key }) => key !== addressKey(address, { tagsTellApart })?.key);
    expect(different).toEqual([]);
    if (!tagsTellApart) expect(all.map(withoutTag)).toEqual(all.map((address) => addressKey(address)?.key));
  });

  test('emails with someone are counted, found and shown by the same key', async () => {
    await changeRulebook(server, crew.tokens.admin, (rulebook) => {
      rulebook.us.tagsTellApart = tagsTellApart;
    });
    const { compiled } = await liveRulebook(server.services.database);
    const exchanges = await loadExchanges(server.services.database.worker as never, compiled, null);
    const times = (key: string): number => exchanges.get(key)?.length ?? 0;
    expect([times('ida@harbour.example'), times('ida+orders@harbour.example'), times('ola@harbour.example')]).toEqual(
      tagsTellApart ? [1, 2, 1] : [3, 0, 1],
    );
    const held = async (address: string): Promise<number> => {
      const answer = await server.call(routeTo('findPerson'), { token: crew.tokens.admin, body: { addresses: [address] } });
      return answer.json.emailsAlone as number;
    };
    expect([await held('ida@harbour.example'), await held('ida+orders@harbour.example')]).toEqual(tagsTellApart ? [1, 2] : [3, 3]);
  });
});

test('where tags tell people apart, erasing a person takes their mail, and not that of whom the tag tells apart', async () => {
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    rulebook.us.tagsTellApart = true;
  });
  const erased = await server.call(routeTo('erasePerson'), {
    token: crew.tokens.admin,
    body: { addresses: ['ida+orders@harbour.example'], way: 'erase', confirm: 'ida+orders@harbour.example', reference: '' },
  });
  expect([erased.status, erased.json.counts?.emailsErased]).toEqual([200, 2]);
  const { rows } = await server.services.database.workerPool.query<{ address: string }>(
    `SELECT DISTINCT address FROM participants WHERE role = 'from' ORDER BY 1`,
  );
  expect(rows.map((row) => row.address)).toEqual(['ida@harbour.example', 'ola@harbour.example']);
});
