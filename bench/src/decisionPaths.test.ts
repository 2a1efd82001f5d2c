import { compareDecision } from '@fulvet/core';
import type { Docket, KeepOutEntry, Rule, Rulebook } from '@fulvet/core';
import { Random } from '@fulvet/demo';
import { putRulebook, runDecisions, runOverPast, storedRulebook, Work } from '@fulvet/server';
import { expect, jest, test } from '@jest/globals';
import { decideOtherwise } from '../../server/src/decision/decideOtherwise';
import { loadInputs } from '../../server/src/decision/inputs/loadInputs';
import { scopeOf } from '../../server/src/decision/keepOutScope';
import { previewKeepOut } from '../../server/src/decision/previewKeepOut';
import { standingOf } from '../../server/src/decision/standing';
import { withEntry } from '../../server/src/rulebook/keepOutEntry';
import { compiledFor } from '../../server/src/rulebook/liveRulebook';
import { RulebookInForce } from '../../server/src/rulebook/rulebookInForce';
import { smallTrial } from '../../server/src/trials/smallTrial';
import { CASES } from './world/answerCases';
import type { DecidedWorld } from './world/answerFigures';
import { inWorld } from './world/answerFigures';
import { AnswerWorld } from './world/answerWorld';

jest.setTimeout(240_000);

// As everywhere: the same cases on every machine, others when they are asked for.
const asked = process.env.FULVET_SEED ?? '2';
const seed = asked === 'random' ? Date.now() >>> 0 : Number(asked);

function worldOf(random: Random): AnswerWorld {
  const world = new AnswerWorld(random, Date.now());
  for (const [of, write] of Object.entries(CASES)) write(world, of);
  return world;
}

const rows = async <T>({ services }: DecidedWorld, text: string, values: unknown[] = []): Promise<T[]> =>
  (await services.database.workerPool.query(text, values)).rows as T[];

/** How every email that is not sealed stands. */
async function standing(world: DecidedWorld): Promise<Map<number, string>> {
  const found = await rows<{ id: number; stands: string }>(
    world,
    `SELECT e.id, e.outcome || ' ' || e.visibility || ' ' || coalesce((SELECT string_agg(f.kind || ':' || f.record_id, ',' ORDER BY f.kind, f.record_id) FROM filings f WHERE f.email_id = e.id), '') AS stands
     FROM emails e WHERE e.outcome <> 'sealed'`,
  );
  return new Map(found.map(({ id, stands }) => [id, stands]));
}

/** Who became no record, since there were too few emails with them. */
const tooFew = (docket: Docket): string =>
  docket
    .flatMap(({ evidence }) =>
      evidence.flatMap((item) => (item.fact === 'not created' && item.because === 'too few emails' ? [item.address] : [])),
    )
    .sort()
    .join(' ');

/** Takes other rules for a while, has all mail that they concern decided, and puts everything back. */
async function forAWhile<T>(
  world: DecidedWorld,
  change: (rulebook: Rulebook) => Rulebook,
  about: string,
  ask: () => Promise<T>,
): Promise<T> {
  const { database, blobs } = world.services;
  const { rulebook } = await storedRulebook(database.worker);
  const scope = scopeOf({ kind: about.includes('@') ? 'address' : 'domain', value: about });
  await putRulebook(database.worker, change(rulebook), 'For a while', world.adminId);
  await runDecisions(database, blobs, scope);
  try {
    return await ask();
  } finally {
    await putRulebook(database.worker, rulebook, 'As before', world.adminId);
    await runDecisions(database, blobs, scope);
  }
}

/** People created when few emails are enough, tags that tell no one apart, and a pilot for some of the mail. */
const moreInIt = (rulebook: Rulebook): void => {
  rulebook.create.after = 'emails';
  rulebook.create.emails = 2;
};

test(`what is explained, tried small and previewed is what deciding does (seed ${seed})`, async () => {
  const random = new Random(seed);
  await inWorld(worldOf(random), 'at once', moreInIt, async (world) => {
    const { database, blobs } = world.services;
    const { rulebook } = await storedRulebook(database.worker);
    const mailboxes = await rows<{ address: string }>(world, 'SELECT address FROM mailboxes ORDER BY id');
    const piloted = mailboxes.slice(0, 2).map(({ address }) => address);
    await putRulebook(database.worker, { ...rulebook, create: { ...rulebook.create, people: 'nothing' } }, 'Pilot', world.adminId, piloted);
    const [run] = await rows<{ id: number; work_id: number }>(
      world,
      `WITH w AS (INSERT INTO work (kind) VALUES ('past run') RETURNING id) INSERT INTO decide_runs (work_id, user_id) SELECT w.id, $1 FROM w RETURNING id, work_id`,
      [world.adminId],
    );
    await runOverPast(database, blobs, run?.id ?? 0, new Work(database.worker, run?.work_id ?? 0));
    const inForce = await RulebookInForce.load(database);

    // Each email by itself, as it is explained.
    const all = await rows<{ id: number }>(world, `SELECT id FROM emails WHERE outcome <> 'sealed' ORDER BY sent_at, id`);
    const differing: string[] = [];
    for (const { id } of all) {
      const inputs = await database.work((tx) => loadInputs(tx, blobs, [id], inForce.rulebooks));
      for (const { email, decision } of decideOtherwise(inputs, (item) => inForce.versionFor(item).compiled)) {
        const difference = compareDecision(standingOf(email), decision);
        if (difference ?? tooFew(JSON.parse(email.before.docket) as Docket) !== tooFew(decision.docket))
          differing.push(`${id} ${email.facts.subject}: ${JSON.stringify(difference)}`);
      }
    }
    expect(differing).toEqual([]);
  });
});

test(`a preview of keeping out says what keeping out does (seed ${seed})`, async () => {
  const random = new Random(seed);
  await inWorld(
    worldOf(random),
    'at once',
    () => undefined,
    async (world) => {
      const { database, blobs } = world.services;
      const met = await rows<{ address: string; domain: string }>(
        world,
        `SELECT DISTINCT p.address, p.domain FROM participants p JOIN emails e ON e.id = p.email_id WHERE e.outcome <> 'kept out' ORDER BY 1`,
      );
      let leaving = 0;
      for (let tries = 0; tries < 4; tries += 1) {
        const { address, domain } = random.pick(met);
        const kind = random.pick(['address', 'domain'] as const);
        const value = kind === 'address' ? address.replace('@', random.chance(0.2) ? '+x@' : '@') : domain;
        const entry: KeepOutEntry = {
          ...{ id: 'tried', kind, value, exactly: random.chance(0.3), effect: random.pick(['keepOut', 'ignore'] as const) },
          ...{ note: '', addedBy: '', addedAt: '' },
        };
        const preview = await previewKeepOut(database, blobs, entry);
        const before = await standing(world);
        const done = await forAWhile(
          world,
          (rulebook) => withEntry(rulebook, entry),
          value.replace('+x@', '@'),
          async () => {
            const after = await standing(world);
            const left = [...before].filter(([id, stands]) => !stands.startsWith('kept out') && after.get(id)?.startsWith('kept out'));
            return { wouldLeave: left.length, filedNow: left.filter(([, stands]) => stands.includes(':')).length };
          },
        );
        expect({ entry, wouldLeave: preview.wouldLeave, filedNow: preview.filedNow }).toEqual({ entry, ...done });
        expect(await standing(world)).toEqual(before);
        leaving += done.wouldLeave;
      }
      expect(leaving).toBeGreaterThan(0);
    },
  );
});

test(`a small trial counts what its rule does (seed ${seed})`, async () => {
  const random = new Random(seed);
  await inWorld(worldOf(random), 'at once', moreInIt, async (world) => {
    const { database, blobs } = world.services;
    const met = await rows<{ domain: string }>(
      world,
      `SELECT x.domain FROM emails e, unnest(e.external_domains) AS x(domain) WHERE e.outcome IN ('filed', 'unfiled') GROUP BY 1 HAVING count(*) BETWEEN 2 AND 40 ORDER BY 1`,
    );
    let changed = 0;
    for (let tries = 0; tries < 3; tries += 1) {
      const { domain } = random.pick(met);
      const when: Rule['when'] = { all: [{ fact: 'participant', which: 'any', test: { is: 'domain', value: domain, exactly: false } }] };
      const rule = { id: 'tried', name: '', note: '', on: true, appliesTo: { mailboxes: [], users: [] }, when };
      const { rulebook } = await storedRulebook(database.worker);
      const other: Rulebook = {
        ...rulebook,
        keepOut: { ...rulebook.keepOut, rules: [...rulebook.keepOut.rules, { ...rule, then: { do: 'keepOut' } }] },
      };
      const trial = await smallTrial(database, blobs, domain, {
        live: await compiledFor(database.worker, rulebook),
        changed: await compiledFor(database.worker, other),
      });
      const before = await standing(world);
      const kept = await forAWhile(
        world,
        () => other,
        domain,
        async () => {
          const after = await standing(world);
          return [...before].filter(([id, stands]) => !stands.startsWith('kept out') && after.get(id)?.startsWith('kept out')).length;
        },
      );
      expect({ domain, keptOut: trial.keptOut }).toEqual({ domain, keptOut: kept });
      changed += trial.keptOut;
    }
    expect(changed).toBeGreaterThan(0);
  });
});
