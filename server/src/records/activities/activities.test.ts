import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { good } from '../../testing/documentTools';
import { routeTo } from '../../testing/routeTo';
import type { Answer, Crew, TestServer } from '../../testing/testServer';
import { changeRulebook, importMail, importRecords, mbox, owner, setUpCrew, startTestServer } from '../../testing/testServer';

const REP = 'rep@quillmere.example';
const HOUR_MS = 3_600_000;
const ago = (hours: number): string => new Date(Date.now() - hours * HOUR_MS).toISOString();
let server: TestServer;
let crew: Crew;
let ids: Record<string, number>;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const admin = crew.tokens.admin;
  await importRecords(server, admin, 'account', 'name,domains\nHarbour Works,harbour.example\nMorland Docks,morland.example\n');
  await importRecords(
    server,
    admin,
    'contact',
    'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Works\nTove Lund,tove@morland.example,Morland Docks\n',
  );
  await importRecords(server, admin, 'deal', 'code,name,account\nQH-1,Storm gate,Harbour Works\n');
  await changeRulebook(server, admin, (rulebook) => (rulebook.share.level = 'everyone'));
  await importMail(server, admin, REP, {
    'rep.mbox': mbox(
      [1, 2, 3, 4].map((day) => ({
        id: `question${day}@harbour.example`,
        from: 'Ida Brandt <ida@harbour.example>',
        to: REP,
        subject: `Question ${day}`,
        date: new Date(Date.now() - day * 24 * HOUR_MS).toUTCString(),
      })),
    ),
  });
  const rows = await owner(
    server.ownerUrl,
    'SELECT name, id::int FROM accounts UNION ALL SELECT name, id::int FROM contacts UNION ALL SELECT name, id::int FROM deals',
  );
  ids = Object.fromEntries(rows.map((row) => [String(row.name), Number(row.id)]));
}, 90_000);
afterAll(() => server.remove());

const ida = () => ({ kind: 'contact', id: ids['Ida Brandt'] });
const call = (more: object = {}) => ({
  kind: 'call',
  at: ago(1),
  direction: 'both',
  text: 'Talked about the gauge.',
  records: [ida()],
  ...more,
});
const log = (content: object, token = crew.tokens.rep): Promise<Answer> => server.call(routeTo('logActivity'), { token, body: content });
const history = async (kind: string, name: string, query: object = {}, token = crew.tokens.rep): Promise<Answer['json']> =>
  good(await server.call(routeTo('getHistory', { kind, id: ids[name] ?? 0, ...query }), { token }));
const texts = async (kind: string, name: string, query: object = {}, token = crew.tokens.rep): Promise<string[]> =>
  (await history(kind, name, query, token)).logged.map(({ text }: { text: string }) => text);
const change = (entry: Answer['json'], content: object, token = crew.tokens.rep, revision = entry.revision): Promise<Answer> =>
  server.call(routeTo('changeActivity', { id: entry.id }), { token, body: { revision, content } });
const remove = (id: number, removed: boolean, token = crew.tokens.rep): Promise<Answer> =>
  server.call(routeTo('removeActivity', { id }), { token, body: { removed } });

describe('contact that is logged by hand', () => {
  test('is in the history of its records, and of the account of its people and deals, with who wrote it', async () => {
    const entry = good(await log(call({ text: 'Asked for tables', records: [ida(), { kind: 'deal', id: ids['Storm gate'] }] })));
    expect(entry).toMatchObject({ kind: 'call', direction: 'both', writer: 'rep person', isMine: true, changes: [], isPrivate: false });
    expect(entry.records.map(({ name }: { name: string }) => name).sort()).toEqual(['Ida Brandt', 'Storm gate']);
    for (const [kind, name] of [
      ['contact', 'Ida Brandt'],
      ['deal', 'Storm gate'],
      ['account', 'Harbour Works'],
    ] as const)
      expect(await texts(kind, name)).toEqual(['Asked for tables']);
    expect(await texts('account', 'Morland Docks')).toEqual([]);
    const insights = good(
      await server.call(routeTo('getInsights', { kind: 'account', id: ids['Harbour Works'] ?? 0 }), { token: crew.tokens.rep }),
    );
    expect(insights.lastLogged).toEqual({ at: entry.at, kind: 'call', writer: 'rep person' });
    expect((await history('contact', 'Ida Brandt', {}, crew.tokens.manager)).logged[0]).toMatchObject({ isMine: false });
    good(await remove(entry.id, true));
  });

  test('stands on the page of its time, once, and is found by its words', async () => {
    const entries = [12, 36, 60, 84, 500].map((hours) => call({ at: ago(hours), text: `Note of ${hours} hours` }));
    const made: number[] = [];
    for (const entry of entries) made.push(good(await log(entry)).id);
    const seen: string[][] = [];
    let after: string | null = null;
    do {
      const page: Answer['json'] = await history('contact', 'Ida Brandt', { limit: 2, ...(after === null ? {} : { after }) });
      seen.push(page.logged.map(({ text }: { text: string }) => text));
      after = page.next;
    } while (after !== null);
    expect(seen).toEqual([
      ['Note of 12 hours', 'Note of 36 hours'],
      ['Note of 60 hours', 'Note of 84 hours', 'Note of 500 hours'],
    ]);
    expect(await texts('contact', 'Ida Brandt', { text: 'of 60' })).toEqual(['Note of 60 hours']);
    expect(await texts('contact', 'Ida Brandt', { direction: 'sent' })).toEqual([]);
    for (const id of made) good(await remove(id, true));
    expect(await texts('contact', 'Ida Brandt')).toEqual([]);
    good(await remove(made[0] ?? 0, false));
    expect(await texts('contact', 'Ida Brandt')).toEqual(['Note of 12 hours']);
    good(await remove(made[0] ?? 0, true));
  });

  test('is refused where it is still to come, about nothing, about a record that is not seen, or by who only reads', async () => {
    expect((await log(call({ at: new Date(Date.now() + HOUR_MS).toISOString() }))).json.error).toMatchObject({
      code: 'in-the-future',
      fields: { at: 'is in the future' },
    });
    expect((await log(call({ records: [] }))).status).toBe(422);
    expect((await log(call({ text: '  ' }))).status).toBe(422);
    expect((await log(call({ records: [{ kind: 'deal', id: 9999 }] }))).status).toBe(404);
    expect((await log(call(), crew.tokens.viewer)).status).toBe(403);
    expect(good(await log({ ...call(), kind: 'note' })).direction).toBeNull();
    expect(await owner(server.ownerUrl, 'DELETE FROM activities RETURNING id')).toHaveLength(7);
  });

  test('is changed by its writer alone; what it said stays, and what was private stays private', async () => {
    const entry = good(await log(call({ text: 'Their price is secret', isPrivate: true })));
    expect(await texts('contact', 'Ida Brandt', {}, crew.tokens.manager)).toEqual([]);
    expect(await texts('contact', 'Ida Brandt', {}, crew.tokens.admin)).toEqual([]);
    expect((await change(entry, call(), crew.tokens.manager)).status).toBe(404);
    const open = good(await change(entry, call({ text: 'They want an offer' })));
    expect(open.changes[0].before.text).toBe('Their price is secret');
    const again = good(await change(open, call({ text: 'They want two offers' })));
    const seen = (await history('contact', 'Ida Brandt', {}, crew.tokens.manager)).logged[0];
    expect(seen.changes.map(({ before }: Answer['json']) => before.text)).toEqual(['They want an offer']);
    expect((await change(again, call(), crew.tokens.manager)).json.error.code).toBe('not-yours');
    expect((await remove(entry.id, true, crew.tokens.manager)).status).toBe(404);
    expect((await change(again, call(), crew.tokens.rep, 0)).json.error.code).toBe('changed-meanwhile');
    expect(await texts('contact', 'Ida Brandt')).toEqual(['They want two offers']);
    good(await remove(entry.id, true));
    expect(await texts('contact', 'Ida Brandt', {}, crew.tokens.manager)).toEqual([]);
  });
});

describe('what counts as contact', () => {
  const row = async (query: object = {}): Promise<Answer['json']> =>
    good(await server.call(routeTo('listRecords', { kind: 'contact', ...query }), { token: crew.tokens.rep })).records.find(
      ({ name }: { name: string }) => name === 'Ida Brandt',
    );

  test('ends the wait for an answer where we reached them, and the quiet days; a note and a removed entry do not', async () => {
    expect((await row()).unanswered).toBe(4);
    const note = good(await log({ ...call(), kind: 'note' }));
    const theirs = good(await log(call({ direction: 'received' })));
    expect((await row()).unanswered).toBe(4);
    const earlier = good(await log(call({ at: ago(60), direction: 'sent', kind: 'letter' })));
    expect((await row()).unanswered).toBe(2);
    const now = good(await log(call({ at: ago(0.1) })));
    expect(await row()).toMatchObject({ unanswered: 0, lastContactAt: now.at });
    expect(await row({ unanswered: 'yes' })).toBeUndefined();
    for (const { id } of [note, theirs, earlier, now]) good(await remove(id, true));
    const back = await row();
    expect(back).toMatchObject({ unanswered: 4, lastContactAt: back.lastEmailAt });
    const quiet = async (): Promise<string[]> =>
      good(await server.call(routeTo('listRecords', { kind: 'contact', quiet: 30 }), { token: crew.tokens.rep })).records.map(
        ({ name }: { name: string }) => name,
      );
    expect(await quiet()).toEqual(['Tove Lund']);
    const { id } = good(await log(call({ records: [{ kind: 'contact', id: ids['Tove Lund'] }] })));
    expect(await quiet()).toEqual([]);
    good(await remove(id, true));
  });
});

describe('who sees what', () => {
  test('follows the records, in random worlds', async () => {
    await owner(server.ownerUrl, `UPDATE workspace SET record_reach = 'owner'`);
    const members = ['rep', 'other', 'manager'] as const;
    const contacts = await owner(
      server.ownerUrl,
      `INSERT INTO contacts (name, owner_id) SELECT 'World ' || n, CASE WHEN n % 3 = 0 THEN NULL ELSE (ARRAY[$1, $2]::bigint[])[1 + n % 2] END FROM generate_series(1, 8) n RETURNING id::int, owner_id::int`,
      [crew.ids.rep, crew.ids.other],
    );
    let state = 7;
    const below = (limit: number): number => (state = (state * 48_271) % 2_147_483_647) % limit;
    const reach = new Map<string, Set<number>>();
    for (const who of members) {
      const { records } = good(await server.call(routeTo('listRecords', { kind: 'contact', limit: 200 }), { token: crew.tokens[who] }));
      reach.set(who, new Set(records.map(({ id }: { id: number }) => id)));
    }
    const entries = Array.from({ length: 40 }, (_, at) => ({
      text: `Entry ${at}`,
      writer: members[below(3)] ?? 'rep',
      isPrivate: below(3) === 0,
      removed: below(5) === 0,
      about: [...new Set([contacts[below(8)]?.id, contacts[below(8)]?.id].map(Number))],
    }));
    for (const { text, writer, isPrivate, removed, about } of entries)
      await owner(
        server.ownerUrl,
        `WITH a AS (INSERT INTO activities (kind, at, direction, text, is_private, writer_id, removed_at) VALUES ('call', now(), 'both', $1, $2, $3, CASE WHEN $4 THEN now() END) RETURNING id)
         INSERT INTO activity_records (activity_id, kind, record_id) SELECT a.id, 'contact', r FROM a, unnest($5::bigint[]) r`,
        [text, isPrivate, crew.ids[writer], removed, about],
      );
    let found = 0;
    for (const who of members)
      for (const { id } of contacts) {
        const answer = await server.call(routeTo('getHistory', { kind: 'contact', id: Number(id) }), { token: crew.tokens[who] });
        const sees = (record: number): boolean => reach.get(who)?.has(record) ?? false;
        const expected = entries
          .filter((entry) => !entry.removed && entry.about.includes(Number(id)))
          .filter((entry) => sees(Number(id)) && (entry.writer === who || (!entry.isPrivate && entry.about.some(sees))))
          .map(({ text }) => text);
        const shown = answer.status === 200 ? answer.json.logged.map(({ text }: { text: string }) => text) : [];
        expect([who, id, [...shown].sort()]).toEqual([who, id, expected.sort()]);
        found += expected.length;
      }
    expect(found).toBeGreaterThan(20);
    await owner(server.ownerUrl, `UPDATE workspace SET record_reach = 'all'`);
  });
});
