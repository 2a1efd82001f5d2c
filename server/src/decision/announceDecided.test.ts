import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import type { Change } from '../base/live/changes';
import type { Crew, TestServer } from '../testing/testServer';
import { importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';
import { announceDecided } from './announceDecided';

type Who = keyof Crew['ids'];
const EVERYBODY: readonly Who[] = ['admin', 'manager', 'rep', 'other', 'viewer'];
const REP = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;
const run = (statement: string, values: unknown[] = []) => owner(server.ownerUrl, statement, values);

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const admin = { token: crew.tokens.admin };
  await server.call(routeTo('importRecords', { kind: 'account' }), {
    ...admin,
    body: { text: 'name,domains\nHarbour Oriel,harbour.example\n' },
  });
  await server.call(routeTo('importRecords', { kind: 'contact' }), {
    ...admin,
    body: { text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n' },
  });
  await server.call(routeTo('importRecords', { kind: 'deal' }), {
    ...admin,
    body: { text: 'code,name,account,people\nQH-1,Gauges,Harbour Oriel,ida@harbour.example\n' },
  });
  await server.call(routeTo('addTeam'), { ...admin, body: { name: 'Coast', members: [crew.ids.other, crew.ids.viewer] } });
  await importMail(server, crew.tokens.admin, REP, {
    'rep.mbox': mbox([{ id: 'one', from: 'ida@harbour.example', to: REP, subject: 'QH-1 gauges', date: 'Mon, 2 Nov 2026 08:00:00 +0000' }]),
  });
});
afterAll(() => server.remove());

/** The email as a decision would leave it, with nothing else that lets anyone see it. */
async function standing(change: Record<string, string>): Promise<number> {
  await run(`DELETE FROM deal_team`);
  for (const kind of ['accounts', 'contacts', 'deals']) await run(`UPDATE ${kind} SET owner_id = NULL`);
  const all = { visibility: `'owner'`, shared_teams: `'{}'`, existence_only: 'false', granted_ids: `'{}'`, outcome: `'filed'`, ...change };
  const [email] = await run(
    `UPDATE emails SET ${Object.entries(all)
      .map(([column, value]) => `${column} = ${value}`)
      .join(', ')} RETURNING id::int AS id`,
  );
  return Number(email?.id);
}

async function told(id: number): Promise<Extract<Change, { kind: 'mail' }>[]> {
  const heard: Change[] = [];
  const end = server.services.changes.hear((change) => heard.push(change));
  const mark = Math.trunc(Math.random() * 1e9);
  await server.services.database.work(async (tx) => {
    await announceDecided(tx, [id]);
    await tx.execute(sql`SELECT pg_notify('fulvet_changes', ${JSON.stringify({ kind: 'wake', id: mark })})`);
  });
  for (let tries = 0; tries < 500 && !heard.some((change) => change.kind === 'wake' && change.id === mark); tries += 1)
    await new Promise((resolve) => setImmediate(resolve)).then(() => run('SELECT 1'));
  end();
  return heard.flatMap((change) => (change.kind === 'mail' ? [change] : []));
}

/** Who reads the email, as the database itself says. */
async function readers(id: number): Promise<Who[]> {
  const found: Who[] = [];
  for (const who of EVERYBODY) {
    const { rowCount } = await server.services.database.as(crew.ids[who], (tx) =>
      tx.execute(sql`SELECT FROM email_contents WHERE email_id = ${id}`),
    );
    if (rowCount) found.push(who);
  }
  return found.sort();
}

async function recipients(id: number): Promise<Who[]> {
  const changes = await told(id);
  return EVERYBODY.filter((who) => changes.some(({ to }) => to === 'everyone' || to.includes(crew.ids[who]))).sort();
}

describe('who is told of a decided email', () => {
  test.each<[string, Record<string, string>, () => Promise<unknown>, Who[]]>([
    ['its owner alone', {}, () => Promise.resolve(), ['rep']],
    ['everyone', { visibility: `'everyone'` }, () => Promise.resolve(), [...EVERYBODY].sort()],
    ['a team', { visibility: `'teams'`, shared_teams: `'{coast}'` }, () => Promise.resolve(), ['other', 'rep', 'viewer']],
    [
      'who owns the account',
      { visibility: `'record'` },
      () => run('UPDATE accounts SET owner_id = $1', [crew.ids.other]),
      ['other', 'rep'],
    ],
    [
      'who owns the contact',
      { visibility: `'record'` },
      () => run('UPDATE contacts SET owner_id = $1', [crew.ids.viewer]),
      ['rep', 'viewer'],
    ],
    ['who owns the deal', { visibility: `'record'` }, () => run('UPDATE deals SET owner_id = $1', [crew.ids.manager]), ['manager', 'rep']],
    [
      'the deal’s team',
      { visibility: `'record'` },
      () => run('INSERT INTO deal_team (deal_id, user_id) SELECT id, $1 FROM deals', [crew.ids.other]),
      ['other', 'rep'],
    ],
    [
      'no one but the owner, where it is sealed',
      { visibility: `'record'`, outcome: `'sealed'` },
      () => run('UPDATE accounts SET owner_id = $1', [crew.ids.other]),
      ['rep'],
    ],
  ])('%s: those who read it, and no one else but administrators, who know of it', async (_, change, arrange, expected) => {
    const id = await standing(change);
    await arrange();
    const knowing = change.outcome === `'sealed'` ? expected : [...new Set<Who>(['admin', ...expected])].sort();
    expect([await readers(id), await recipients(id)]).toEqual([expected, knowing]);
  });

  test('who knows of it only is told of its account and its deal, and not under which person it is filed', async () => {
    const id = await standing({ visibility: `'teams'`, shared_teams: `'{coast}'`, existence_only: 'true' });
    const changes = await told(id);
    const kindsFor = (who: Who): string[] =>
      changes.flatMap(({ to, records }) =>
        to !== 'everyone' && to.includes(crew.ids[who]) ? records.map((key) => key.split(':')[0] ?? '') : [],
      );
    expect(kindsFor('other').sort()).toEqual(['account', 'deal']);
    expect(kindsFor('admin').sort()).toEqual(['account', 'deal']);
    expect(kindsFor('rep').sort()).toEqual(['account', 'contact', 'deal']);
    expect(kindsFor('manager')).toEqual([]);
  });

  test('whom only a grant let read it is not told of it once it is sealed', async () => {
    const granted = { granted_ids: `ARRAY[${String(crew.ids.other)}]::bigint[]` };
    expect(await recipients(await standing(granted))).toEqual(['admin', 'other', 'rep']);
    expect(await recipients(await standing({ ...granted, outcome: `'sealed'` }))).toEqual(['rep']);
  });

  test('whoever reads the owner’s mail in an emergency is told as well', async () => {
    await run(
      `INSERT INTO emergencies (asked_by, owner_id, reason, hours, confirmed_by, until) VALUES ($1, $2, 'a customer waits', 4, $3, now() + interval '4 hours')`,
      [crew.ids.admin, crew.ids.rep, crew.ids.manager],
    );
    const changes = await told(await standing({}));
    await run('DELETE FROM emergencies');
    expect(
      changes.some(
        ({ to, records }) => to !== 'everyone' && to.includes(crew.ids.admin) && records.some((key) => key.startsWith('contact:')),
      ),
    ).toBe(true);
  });

  test('the records are named, and nothing of what it says', async () => {
    const id = await standing({ visibility: `'everyone'` });
    const [change] = await told(id);
    expect(Object.keys(change ?? {}).sort()).toEqual(['kind', 'records', 'to']);
    expect(change?.records.map((record) => record.split(':')[0]).sort()).toEqual(['account', 'contact', 'deal']);
  });

  test('of nothing, no one', async () => {
    await server.services.database.work((tx) => announceDecided(tx, []));
    expect(await told(0)).toEqual([]);
  });
});
