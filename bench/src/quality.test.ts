import type { Rulebook } from '@fulvet/core';
import { expect, jest, test } from '@jest/globals';
import { Random } from '@fulvet/demo';
import { CASES } from './world/answerCases';
import { putRulebook, runOverPast, runTrial, storedRulebook, Work } from '@fulvet/server';
import type { Decided, DecidedWorld, Figures, ReadingOrder } from './world/answerFigures';
import { FIGURES, inWorld } from './world/answerFigures';
import type { Case } from './world/answerWorld';
import { AnswerWorld } from './world/answerWorld';
import { machineFigures, machineMail } from './world/machineMail';
import { asNoisy, NoisyWorld } from './world/noisyWorld';
import { NoisyPeople } from './world/noisyPeople';
import { peopleFigures } from './world/peopleFigures';
import { PEOPLE_POLICIES } from './world/noisyNames';
import { POLICIES } from './world/policyCases';

// Whole worlds are decided, on machines that do other things beside it.
jest.setTimeout(240_000);

const NOW = Date.now();

function worldOf(cases: Record<string, Case>, seed: number, copies = 2): AnswerWorld {
  const world = new AnswerWorld(new Random(seed), NOW);
  for (const [of, write] of Object.entries(cases)) for (let at = 0; at < copies; at += 1) write(world, of);
  return world;
}

const amissIn = (figures: Figures): string[] =>
  FIGURES.filter((figure) => /wrong|missing|needless|not|lost/.test(figure)).flatMap((name) =>
    figures.byCase(name).map((line) => `${name}: ${line}`),
  );

test.each([
  ['at once', 5, 2],
  ['one by one', 6, 1],
] as const)(
  'in a world of mail of which it is known what is right, everything is, and stays so: mailboxes read %s',
  async (order, seed, copies) => {
    const world = worldOf(CASES, seed, copies);
    await inWorld(world, order, asUsual, async (decided) => {
      const figures = await decided.figures();
      expect(amissIn(figures)).toEqual([]);
      expect(figures.count('filings right')).toBeGreaterThan(world.sent.length);
      expect(figures.count('questions right')).toBeGreaterThan(0);
      expect(await triedAgain(decided)).toEqual(AS_IT_STANDS);
    });
  },
);

const asUsual = (): void => undefined;
const AS_IT_STANDS = { again: { state: 'done', changed: 0 }, withoutMade: { changed: 0, created: 0, notCreated: 0 } };

/** What deciding it again would change, and deciding it as if mail had created no one yet. */
const triedAgain = async (decided: DecidedWorld): Promise<unknown> => ({
  again: await goOverPast(decided),
  withoutMade: await tryWithoutMade(decided),
});

type Begun = { id: number; work_id: number };

/** Decides all past mail again by what is in force. */
async function goOverPast({ services, adminId }: DecidedWorld): Promise<unknown> {
  const { workerPool } = services.database;
  const begun = await workerPool.query<Begun>(
    `WITH w AS (INSERT INTO work (kind) VALUES ('past run') RETURNING id) INSERT INTO decide_runs (work_id, user_id) SELECT w.id, $1 FROM w RETURNING id, work_id`,
    [adminId],
  );
  const { id = 0, work_id: workId = 0 } = begun.rows[0] ?? {};
  await runOverPast(services.database, services.blobs, id, new Work(services.database.worker, workId));
  return (await workerPool.query('SELECT w.state, r.changed FROM decide_runs r JOIN work w ON w.id = r.work_id WHERE r.id = $1', [id]))
    .rows[0];
}

/** A trial of what is in force, as if the records that mail created were not there. */
async function tryWithoutMade({ services, adminId }: DecidedWorld): Promise<unknown> {
  const { workerPool } = services.database;
  const made = await workerPool.query<Begun>(
    `WITH w AS (INSERT INTO work (kind) VALUES ('trial') RETURNING id)
     INSERT INTO trials (work_id, name, user_id, document, base_version, without_made) SELECT w.id, 'Without', $1, document, version, true FROM w, rulebooks ORDER BY version DESC LIMIT 1 RETURNING id, work_id`,
    [adminId],
  );
  const { id = 0, work_id: workId = 0 } = made.rows[0] ?? {};
  await runTrial(services.database, services.blobs, id, new Work(services.database.worker, workId));
  const { rows } = await workerPool.query(
    `SELECT (summary ->> 'changed')::int AS changed, (summary ->> 'createdCount')::int AS created, (SELECT count(*) FROM trial_made WHERE trial_id = t.id AND NOT again)::int AS "notCreated" FROM trials t WHERE id = $1`,
    [id],
  );
  return rows[0];
}

const inLines = (decisions: ReadonlyMap<string, Decided>): string[] =>
  [...decisions].map(([id, { outcome, under, asks }]) => `${id}: ${outcome}, ${[...under].sort().join(' ')}, ${asks.join(' ')}`).sort();

test('records that come in after the mail lead to the same as records that were there before', async () => {
  // Made of mail, a record would stand in the way of the file's: so no one is created.
  const nobody = (rulebook: Rulebook): void => void (rulebook.create.people = 'nothing');
  const filed = async (order: ReadingOrder): Promise<string[]> =>
    inLines(await inWorld(worldOf(CASES, 4, 1), order, nobody, (decided) => decided.decisions()));
  const [before, after] = [await filed('at once'), await filed('before the records')];
  expect(after).toEqual(before);
  expect(before.filter((value) => value.includes('deal:')).length).toBeGreaterThan(25);
});

test.each(Object.entries(POLICIES))('under another rulebook everything is right and stays so, too: %s', async (_, { change, cases }) => {
  await inWorld(worldOf(cases, 3, 1), 'one by one', change, async (decided) => {
    const figures = await decided.figures();
    expect(amissIn(figures)).toEqual([]);
    expect(['filings right', 'questions right'].some((value) => figures.count(value) > 0)).toBe(true);
    expect(await triedAgain(decided)).toEqual(AS_IT_STANDS);
  });
});

test.each(Object.entries(POLICIES))(
  'put live later, a rulebook decides as if it had been there from the beginning: %s',
  async (_, { change, cases }) => {
    let takeIn: Rulebook['takeIn'] | undefined;
    const nothing = (rulebook: Rulebook): void => {
      change(rulebook);
      takeIn = rulebook.takeIn;
      rulebook.takeIn = { ...takeIn, scope: 'byHand', rules: [] };
    };
    await inWorld(worldOf(cases, 3, 1), 'at once', nothing, async (decided) => {
      const { worker } = decided.services.database;
      const { rulebook } = await storedRulebook(worker);
      await putRulebook(worker, { ...rulebook, takeIn: takeIn ?? rulebook.takeIn }, 'Later', decided.adminId);
      await goOverPast(decided);
      // What is right from the beginning is right then.
      expect(amissIn(await decided.figures())).toEqual([]);
      expect(inLines(await decided.decisions()).some((value) => /: (filed|waiting)/.test(value))).toBe(true);
    });
  },
);

test('in a world made at random, nearly everything is right, and nothing is asked needlessly', async () => {
  const world = NoisyWorld.of(2, 450, NOW);
  const figures = await inWorld(world, 'one by one', asNoisy, (decided) => decided.figures());
  const [right, wrong, missing] = ['filings right', 'filings wrong', 'filings missing'].map((figure) => figures.count(figure));
  const share = (part = 0, of = 0): number => part / Math.max(1, of);
  expect(right).toBeGreaterThan(1200);
  expect({ wrong: share(wrong, right) < 0.003, of: amissIn(figures) }).toEqual({ wrong: true, of: expect.anything() });
  expect({ missing: share(missing, right) < 0.005, of: amissIn(figures) }).toEqual({ missing: true, of: expect.anything() });
  expect(share(figures.count('questions needless'), world.sent.length)).toBeLessThan(0.01);
  expect(figures.count('kept out wrongly') + figures.count('emails lost')).toBe(0);
});

test.each([
  ['we wrote', 11],
  ['they answered', 12],
] as const)('in a world of people on no record, those become one who have to, under their names: created when %s', async (policy, seed) => {
  const made = NoisyPeople.of(seed, 100, NOW, policy);
  const found = await inWorld(made.world, 'one by one', PEOPLE_POLICIES[policy], (decided) => peopleFigures(made, decided));
  expect({ never: found.never, missing: found.missing }).toEqual({ never: [], missing: [] });
  expect(found.created.of).toBeGreaterThan(10);
  expect({ enough: found.names.right / found.names.of >= 0.97, wrong: found.names.wrong }).toMatchObject({ enough: true });
  expect(found.pairs.of).toBeGreaterThan(50);
  expect(found.pairs.right / found.pairs.of).toBeGreaterThan(0.995);
  expect(found.pairs.wrong).toBe(0);
});

test('mail of machines is found without its headers, and no one’s email is taken for it', async () => {
  const { found, alarms, missed } = await machineFigures(machineMail(3, 3000));
  expect(alarms).toEqual([]);
  for (const [kind, { found: count, of }] of found)
    expect({ kind, enough: count / of >= 0.9, missed: missed.slice(0, 5) }).toMatchObject({ enough: true });
});
