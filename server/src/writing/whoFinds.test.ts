import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { randomFrom } from '../testing/sightActs';
import { routeTo } from '../testing/routeTo';
import type { Crew, TestServer } from '../testing/testServer';
import { owner, setUpCrew, startTestServer } from '../testing/testServer';

// Random templates and documents, and a plain model of who finds and changes them, compared through the API.

interface Item {
  table: 'templates' | 'documents';
  id: number;
  owner: Name;
  scope: 'own' | 'team' | 'all';
  team: number | null;
  removed: boolean;
  /** Documents are always published. */
  published: boolean;
}
type Name = 'admin' | 'manager' | 'rep' | 'other';
const NAMES: readonly Name[] = ['admin', 'manager', 'rep', 'other'];
const SEEDS = [1, 2, 3];
const ROUNDS = 40;

let server: TestServer;
let crew: Crew;
let teams: number[];
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const rows = await owner(server.ownerUrl, `INSERT INTO teams (name) VALUES ('North'), ('South') RETURNING id::int`);
  teams = rows.map(({ id }) => Number(id));
}, 120_000);
afterAll(() => server.remove(), 60_000);

test.each(SEEDS)('templates and documents are found and changed by whom they are for (seed %i)', async (seed) => {
  const random = randomFrom(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
  const members = new Set<string>();
  const items: Item[] = [];
  await owner(server.ownerUrl, 'DELETE FROM team_members');
  await owner(server.ownerUrl, 'DELETE FROM templates');
  await owner(server.ownerUrl, 'DELETE FROM documents');

  const add = async (): Promise<void> => {
    const item: Item = {
      table: pick(['templates', 'documents'] as const),
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
    await (items.length < 4 || random() < 0.6 ? add() : join());
    for (const name of NAMES) {
      const token = crew.tokens[name];
      const ids = (table: Item['table'], list: readonly { id: number }[]): string[] => list.map(({ id }) => `${table} ${id}`);
      const { templates } = (await server.call(routeTo('listTemplates'), { token })).json;
      const { documents } = (await server.call(routeTo('listDocuments'), { token })).json;
      const wanted = items.filter((item) => finds(name, item) && !item.removed).map(({ table, id }) => `${table} ${id}`);
      expect([name, [...ids('templates', templates), ...ids('documents', documents)].sort()]).toEqual([name, wanted.sort()]);
      const item = pick(items);
      const one = { id: item.id };
      const status = async (target: ReturnType<typeof routeTo>, body?: object): Promise<number> =>
        (await server.call(target, { token, ...(body ? { body } : {}) })).status;
      const isTemplate = item.table === 'templates';
      const found = finds(name, item);
      const asked = {
        get: await status(isTemplate ? routeTo('getTemplate', one) : routeTo('getDocument', one)),
        file: isTemplate ? 0 : await status(routeTo('getDocumentFile', { ...one, number: 1 })),
        save: await status(
          isTemplate ? routeTo('saveTemplate', one) : routeTo('saveDocument', one),
          isTemplate ? { kind: 'block', name: 'T', revision: 99 } : { title: 'D', revision: 99 },
        ),
      };
      expect([name, item, asked]).toEqual([
        name,
        item,
        { get: found ? 200 : 404, file: isTemplate ? 0 : found ? 200 : 404, save: isMine(name, item) ? 409 : found ? 403 : 404 },
      ]);
    }
  }
});
