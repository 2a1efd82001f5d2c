import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { randomFrom } from '../../../core/src/testing/random';
import { routeTo } from '../testing/routeTo';
import type { Crew, TestServer } from '../testing/testServer';
import { owner, setUpCrew, startTestServer } from '../testing/testServer';

// Random templates, documents and series, what members write, and a plain model of who finds and changes each, compared through the API.

interface Item {
  table: 'templates' | 'documents' | 'series';
  id: number;
  owner: Name;
  scope: 'own' | 'team' | 'all';
  team: number | null;
  removed: boolean;
  /** Documents and series are always published. */
  published: boolean;
}
/** What a member writes, or sends by itself: theirs alone. */
interface Writing {
  what: 'outgoing' | 'runs' | 'bulk';
  id: number;
  owner: Name;
}
type Name = 'admin' | 'manager' | 'rep' | 'other';
const NAMES: readonly Name[] = ['admin', 'manager', 'rep', 'other'];
const SEEDS = [1, 2, 3];
const ROUNDS = 10;

let server: TestServer;
let crew: Crew;
let teams: number[];
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const rows = await owner(server.ownerUrl, `INSERT INTO teams (name) VALUES ('North'), ('South') RETURNING id::int`);
  await owner(server.ownerUrl, `INSERT INTO mailboxes (address, owner_id) SELECT 'm@quillmere.example', id FROM users LIMIT 1`);
  teams = rows.map(({ id }) => Number(id));
}, 120_000);
afterAll(() => server.remove(), 60_000);

test.each(SEEDS)('templates, documents and series are found and changed by whom they are for (seed %i)', async (seed) => {
  const random = randomFrom(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
  const members = new Set<string>();
  const items: Item[] = [];
  await owner(server.ownerUrl, 'DELETE FROM team_members');
  await owner(server.ownerUrl, 'DELETE FROM templates');
  const writings: Writing[] = [];
  for (const table of ['documents', 'series_runs', 'bulk_sends', 'outgoing', 'series'])
    await owner(server.ownerUrl, `DELETE FROM ${table}`);

  const add = async (): Promise<void> => {
    const item: Item = {
      table: pick(['templates', 'documents', 'series'] as const),
      id: 0,
      owner: pick(NAMES),
      scope: pick(['own', 'team', 'all'] as const),
      team: null,
      removed: random() < 0.2,
      published: true,
    };
    if (item.scope === 'team') item.team = random() < 0.1 ? null : pick(teams);
    const removedAt = item.removed ? new Date() : null;
    if (item.table === 'templates') {
      const state = pick(['published', 'published', 'draft', 'outdated'] as const);
      item.published = state === 'published';
      const [row] = await owner(
        server.ownerUrl,
        `INSERT INTO templates (kind, owner_id, scope, team_id, name, state, removed_at) VALUES ('block', $1, $2, $3, 'T', $4, $5) RETURNING id::int`,
        [crew.ids[item.owner], item.scope, item.team, state, removedAt],
      );
      item.id = Number(row?.id);
    } else if (item.table === 'series') {
      const [row] = await owner(
        server.ownerUrl,
        `INSERT INTO series (owner_id, scope, team_id, name, steps, removed_at) VALUES ($1, $2, $3, 'S', '[]', $4) RETURNING id::int`,
        [crew.ids[item.owner], item.scope, item.team, removedAt],
      );
      item.id = Number(row?.id);
    } else {
      const [row] = await owner(
        server.ownerUrl,
        `WITH d AS (INSERT INTO documents (owner_id, scope, team_id, title, removed_at) VALUES ($1, $2, $3, 'D', $4) RETURNING id),
           v AS (INSERT INTO document_versions (document_id, number, name, type, size, added_by) SELECT id, 1, 'x', 'x', 1, $1 FROM d RETURNING id),
           p AS (INSERT INTO document_parts (version_id, part, content) SELECT id, 0, 'x' FROM v)
         SELECT id::int FROM d`,
        [crew.ids[item.owner], item.scope, item.team, removedAt],
      );
      item.id = Number(row?.id);
    }
    items.push(item);
  };
  const write = async (): Promise<void> => {
    const writing: Writing = { what: pick(['outgoing', 'runs', 'bulk'] as const), id: 0, owner: pick(NAMES) };
    const id = crew.ids[writing.owner];
    const mailbox = `(SELECT id FROM mailboxes LIMIT 1)`;
    const insert = {
      outgoing: `INSERT INTO outgoing (writer_id, mailbox_id, kind) VALUES ($1, ${mailbox}, 'new') RETURNING id::int`,
      runs: `INSERT INTO series_runs (series_name, writer_id, mailbox_id, address, zone, steps, due_at, look_at) VALUES ('S', $1, ${mailbox}, 'p' || nextval('series_runs_id_seq') || '@x.example', 'UTC', '[{"kind":"task","waitDays":9,"templateId":null,"text":"x"}]', now() + interval '9 days', now() + interval '9 days') RETURNING id::int`,
      bulk: `INSERT INTO bulk_sends (writer_id, name, total, left_out) VALUES ($1, 'B', 1, '{}') RETURNING id::int`,
    }[writing.what];
    const [row] = await owner(server.ownerUrl, insert, [id]);
    writings.push({ ...writing, id: Number(row?.id) });
  };
  const join = async (): Promise<void> => {
    const [name, team] = [pick(NAMES), pick(teams)];
    const key = `${name} ${team}`;
    if (members.delete(key))
      await owner(server.ownerUrl, 'DELETE FROM team_members WHERE user_id = $1 AND team_id = $2', [crew.ids[name], team]);
    else {
      members.add(key);
      await owner(server.ownerUrl, 'INSERT INTO team_members (user_id, team_id) VALUES ($1, $2)', [crew.ids[name], team]);
    }
  };

  const isMine = (name: Name, item: Item): boolean => item.owner === name || (item.scope !== 'own' && name === 'admin');
  const finds = (name: Name, item: Item): boolean =>
    isMine(name, item) ||
    (!item.removed &&
      item.published &&
      (item.scope === 'all' || (item.scope === 'team' && item.team !== null && members.has(`${name} ${item.team}`))));

  for (let round = 0; round < ROUNDS; round += 1) {
    if (random() < 0.3) await write();
    await (items.length < 4 || random() < 0.6 ? add() : join());
    for (const name of NAMES) {
      const token = crew.tokens[name];
      const ids = (table: Item['table'], list: readonly { id: number }[]): string[] => list.map(({ id }) => `${table} ${id}`);
      const { templates } = (await server.call(routeTo('listTemplates'), { token })).json;
      const { documents } = (await server.call(routeTo('listDocuments'), { token })).json;
      const { series } = (await server.call(routeTo('listSeries'), { token })).json;
      const wanted = items.filter((item) => finds(name, item) && !item.removed).map(({ table, id }) => `${table} ${id}`);
      expect([name, [...ids('templates', templates), ...ids('documents', documents), ...ids('series', series)].sort()]).toEqual([
        name,
        wanted.sort(),
      ]);
      const own = (what: Writing['what']): number[] => writings.filter((it) => it.what === what && it.owner === name).map((it) => it.id);
      const sorted = (list: readonly { id: number }[]): number[] => list.map((it) => it.id).sort((first, second) => first - second);
      expect({
        outgoing: sorted((await server.call(routeTo('listOutgoing'), { token })).json.emails),
        runs: sorted((await server.call(routeTo('listSeriesRuns'), { token })).json.runs),
        bulk: sorted((await server.call(routeTo('listBulk'), { token })).json.sends),
      }).toEqual({ outgoing: own('outgoing'), runs: own('runs'), bulk: own('bulk') });
      const item = pick(items);
      const one = { id: item.id };
      const status = async (target: ReturnType<typeof routeTo>, body?: object): Promise<number> =>
        (await server.call(target, { token, ...(body ? { body } : {}) })).status;
      const kind = item.table;
      const found = finds(name, item);
      const asked = {
        get: await status(
          { templates: routeTo('getTemplate', one), documents: routeTo('getDocument', one), series: routeTo('getSeries', one) }[kind],
        ),
        file: kind !== 'documents' ? 0 : await status(routeTo('getDocumentFile', { ...one, number: 1 })),
        save: await status(
          { templates: routeTo('saveTemplate', one), documents: routeTo('saveDocument', one), series: routeTo('saveSeries', one) }[kind],
          {
            templates: { kind: 'block', name: 'T', revision: 99 },
            documents: { title: 'D', revision: 99 },
            series: { name: 'S', steps: [{ kind: 'task', waitDays: 0, text: 'x' }], revision: 99 },
          }[kind],
        ),
      };
      expect([name, item, asked]).toEqual([
        name,
        item,
        { get: found ? 200 : 404, file: kind !== 'documents' ? 0 : found ? 200 : 404, save: isMine(name, item) ? 409 : found ? 403 : 404 },
      ]);
    }
  }
});
