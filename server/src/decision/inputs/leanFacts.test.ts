import { routeTo } from '../../testing/routeTo';
import { compileRulebook, cautiousRulebook } from '@fulvet/core';
import { planDemo } from '@fulvet/demo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { sql } from 'drizzle-orm';
import type { Crew, TestServer } from '../../testing/testServer';
import { changeRulebook, decideAll, importMail, owner, setUpCrew, startTestServer } from '../../testing/testServer';
import type { ReadEmail } from './leanFacts';
import { LeanReader, staysOutByKind } from './leanFacts';
import type { StoredEmail } from './loadFacts';
import { loadFacts } from './loadFacts';

let server: TestServer;
let crew: Crew;
let ids: number[];

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const [first] = planDemo({ now: Date.UTC(2026, 5, 1), seed: 7, emails: 1500 }).mailboxes.messages();
  const list = first?.list.slice(0, 300).filter(({ raw }) => raw.length < 200_000) ?? [];
  const box = list.map(
    ({ raw }) =>
      `From x Thu Jan  1 00:00:00 2026\n${Buffer.from(raw)
        .toString('latin1')
        .replace(/\r\n/g, '\n')
        .replace(/^(>*From )/gm, '>$1')}\n`,
  );
  await importMail(server, crew.tokens.admin, 'rep@quillmere.example', { 'rep.mbox': Buffer.from(box.join(''), 'latin1') });
  await server.call(routeTo('addTeam'), { token: crew.tokens.admin, body: { name: 'Coast', members: [crew.ids.rep] } });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => void (rulebook.share.level = 'everyone'));
  await decideAll(server, crew.tokens.admin);
  await owner(
    server.ownerUrl,
    `INSERT INTO gestures (email_id, via, target, record_id, detail, user_id, trusted) SELECT min(id), 'folder', 'rules', NULL, 'By the rules', $1, true FROM emails WHERE outcome <> 'kept out'`,
    [crew.ids.rep],
  );
  ids = (await owner(server.ownerUrl, 'SELECT id FROM emails ORDER BY sent_at, id')).map((row) => Number(row.id));
}, 60_000);
afterAll(() => server.remove());

/** Lists whose order tells nothing, sorted. */
const plain = ({ facts, before, conversationId }: StoredEmail) => ({
  conversationId,
  before: { ...before, docket: '' },
  facts: { ...facts, folders: [...facts.folders].sort(), mailboxes: [...facts.mailboxes].sort(), teams: [...facts.teams].sort() },
});

test.each([true, false])('facts read for walking over much mail are those that decisions rest on, kept: %s', async (toKeep) => {
  const { worker } = server.services.database;
  const { blobs } = server.services;
  const [lean, whole] = await worker.transaction(
    async (tx) => {
      const reader = await LeanReader.open(server.services.database, tx, blobs, { needs: { text: true, attachments: true }, toKeep });
      const lean: ReadEmail[] = [];
      for await (const found of reader.stream(tx, sql`true`, 40)) {
        expect(found.length).toBeLessThanOrEqual(40);
        lean.push(...found);
      }
      return [lean, await loadFacts(tx, blobs, ids, true)] as const;
    },
    { isolationLevel: 'repeatable read' },
  );
  expect(ids.length).toBeGreaterThan(150);
  expect(whole.filter((email) => email.before.outcome === 'kept out').length).toBeGreaterThan(3);
  expect(whole.some((email) => email.facts.attachments.length > 0)).toBe(true);
  expect(lean.map((email) => plain(email.email))).toEqual(whole.map(plain));
  expect(lean.some((email) => email.settled)).toBe(false);
});

test('machine mail that stays out by its kind is settled without being read, unless a rule could go before', async () => {
  const { worker } = server.services.database;
  const settledBy = (change: (rulebook: ReturnType<typeof cautiousRulebook>) => void): Promise<number> => {
    const rulebook = cautiousRulebook(['quillmere.example']);
    change(rulebook);
    const compiled = compileRulebook(rulebook, { teamAddresses: [], publicProviders: new Set() });
    return worker.transaction(
      async (tx) => {
        const { database, blobs } = server.services;
        const reader = await LeanReader.open(database, tx, blobs, {
          needs: { text: false, attachments: false },
          staysOut: staysOutByKind(compiled),
          toKeep: false,
        });
        let settled = 0;
        for await (const found of reader.stream(tx, sql`true`)) settled += found.filter((email) => email.settled).length;
        return settled;
      },
      { isolationLevel: 'repeatable read' },
    );
  };
  const machine = await owner(
    server.ownerUrl,
    `SELECT count(*)::int AS n FROM emails WHERE steps -> 0 ->> 'rule' = 'keep-out.machine-mail'`,
  );
  expect(await settledBy(() => undefined)).toBe(machine[0]?.n);
  expect(await settledBy((rulebook) => void (rulebook.keepOut.machineMail = []))).toBe(0);
  expect(
    await settledBy((rulebook) => {
      rulebook.keepOut.rules = [
        { id: 'in', name: '', note: '', on: true, appliesTo: { mailboxes: [], users: [] }, when: { all: [] }, then: { do: 'letThrough' } },
      ];
    }),
  ).toBe(0);
});
