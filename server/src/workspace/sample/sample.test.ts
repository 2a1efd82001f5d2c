import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { MboxSplitter, readEmail } from '@fulvet/core';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Answer, Crew, TestServer } from '../../testing/testServer';
import { owner, setUpCrew, startTestServer } from '../../testing/testServer';
import { until } from '../../testing/mailboxTools';
import { sampleWorld } from './sampleWorld';

let server: TestServer;
let crew: Crew;
const admin = (target: Destination, body?: unknown): Promise<Answer> =>
  server.call(target, { token: crew.tokens.admin, ...(body === undefined ? {} : { body }) });
const good = ({ status, json }: Answer): Answer['json'] => {
  expect([status, json?.error]).toEqual([200, undefined]);
  return json;
};
/** How many rows the tables have that hold records or mail. */
const rows = async (): Promise<Record<string, number>> => {
  const tables = [
    'emails',
    'accounts',
    'contacts',
    'leads',
    'deals',
    'person_addresses',
    'account_domains',
    'blobs',
    'meetings',
    'filings',
  ];
  const counts = await Promise.all(tables.map((table) => owner(server.ownerUrl, `SELECT count(*)::int AS rows FROM ${table}`)));
  return Object.fromEntries(tables.map((table, at) => [table, Number(counts[at]?.[0]?.rows)]));
};

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
}, 60_000);
afterAll(() => server.remove());

const state = async (): Promise<{ state: string; step: number | null }> => good(await admin(routeTo('getSample')));
const loaded = () => until(state, (item) => item.state === 'loaded');

describe('the sample world', () => {
  test('is loaded into an empty workspace: filed, kept out, waiting and unknown mail around the member', async () => {
    expect(await state()).toEqual({ state: 'possible', step: null });
    expect(good(await admin(routeTo('loadSample'))).undo).toEqual(expect.any(Number));
    await loaded();
    const outcomes = await owner(server.ownerUrl, `SELECT outcome, count(*)::int AS emails FROM emails GROUP BY 1 ORDER BY 1`);
    expect(Object.fromEntries(outcomes.map((row) => [row.outcome, row.emails]))).toEqual({
      filed: expect.any(Number),
      'kept out': 3,
      unfiled: 3,
      waiting: expect.any(Number),
    });
    expect(await rows()).toMatchObject({ emails: 23, accounts: 3, leads: 1, deals: 4, meetings: 1 });
    expect((await admin(routeTo('getDesk', { whose: 'mine' }))).json.cases.length).toBeGreaterThan(0);
    // It is the administrator's own mail: no one else sees what it says.
    expect((await server.call(routeTo('listEmails'), { token: crew.tokens.other })).json.total).toBe(0);
  });

  test('is not loaded twice, or beside anything else', async () => {
    const again = await admin(routeTo('loadSample'));
    expect([again.status, again.json.error.code]).toEqual([409, 'not-empty']);
    expect((await server.call(routeTo('loadSample'), { token: crew.tokens.rep })).status).toBe(403);
  });

  test('is removed whole by one step of any administrator, and can be loaded again', async () => {
    const { step } = await state();
    const byOther = (): Promise<Answer> => server.call(routeTo('undo', { id: step }), { token: crew.tokens.other });
    expect((await byOther()).status).toBe(404);
    await owner(server.ownerUrl, `UPDATE users SET role = 'admin' WHERE id = $1`, [crew.ids.other]);
    const undone = good(await byOther());
    await owner(server.ownerUrl, `UPDATE users SET role = 'rep' WHERE id = $1`, [crew.ids.other]);
    expect(undone.kept).toEqual([]);
    expect(Object.values(await rows())).toEqual(Object.values(await rows()).map(() => 0));
    expect(await state()).toEqual({ state: 'possible', step: null });
    good(await admin(routeTo('loadSample')));
    await loaded();
    expect(await rows()).toMatchObject({ emails: 23, deals: 4 });
  });

  test('removed, leaves what was changed since, and names it', async () => {
    const [account] = await owner(server.ownerUrl, `SELECT id FROM accounts WHERE name = 'Tessaly Seafarms'`);
    good(await admin(routeTo('editRecord', { kind: 'account', id: account?.id }), { values: { name: 'Tessaly Sea Farms' } }));
    const { step } = await state();
    const undone = good(await admin(routeTo('undo', { id: step })));
    expect(undone.kept).toContainEqual(expect.objectContaining({ kind: 'account', name: 'Tessaly Sea Farms' }));
    expect(await rows()).toMatchObject({ emails: 0, accounts: 1 });
    expect(await state()).toEqual({ state: 'impossible', step: null });
  });
});

test('its mail is whole for any name and address, and ends before now', async () => {
  const now = Date.UTC(2026, 10, 30, 12);
  const { mbox } = sampleWorld({ name: 'Ada "Q"\r\nBcc: x@y.example', email: 'ada@quillmere.example' }, now);
  const splitter = new MboxSplitter();
  const messages = [...splitter.push(Buffer.from(mbox)), ...splitter.end()];
  const facts = await Promise.all(messages.map(({ raw }) => readEmail(raw, { arrivedAt: now })));
  expect(facts).toHaveLength(23);
  expect(facts.every((fact) => fact.problems.length === 0 && fact.date.at < now)).toBe(true);
  expect(facts.every((fact) => fact.participants.some((who) => who.address === 'ada@quillmere.example'))).toBe(true);
  expect(
    facts.flatMap((fact) => fact.participants).filter((who) => !who.domain.endsWith('.example') || who.address === 'x@y.example'),
  ).toEqual([]);
  expect(facts.flatMap((fact) => fact.meetings)).toHaveLength(1);
});
