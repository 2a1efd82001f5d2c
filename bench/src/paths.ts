import type { EmailFacts } from '@fulvet/core';
import { liveRulebook, runDecisions } from '@fulvet/server';
import { sql } from 'drizzle-orm';
import { idRow, rowsOf } from '../../server/src/base/db/rows';
import type { Tx } from '../../server/src/base/db/database';
import { loadFacts } from '../../server/src/decision/inputs/loadFacts';
import { loadRecords } from '../../server/src/decision/inputs/loadRecords';
import { placeInFamilies } from '../../server/src/emails/store/threadBatch';
import { ThreadHasher } from '../../server/src/emails/store/threadHashes';
import { mailConcerning } from '../../server/src/records/concernedMail';
import { owner } from '../../server/src/testing/testServer';
import type { TestServer } from '../../server/src/testing/testServer';
import type { Times } from './measure';
import { report, timesOf } from './measure';
import { measuredWorld, SIZES } from './world/measuredWorld';

const ROUNDS = 7;
/** Emails of the long conversation, and of a batch. */
const LONG = 1000;
const BATCH = 400;
const HOUR_MS = 3_600_000;

/** What is done for single emails, records and batches: it must not cost more where there is more mail. */
async function measure({ services, ownerUrl }: TestServer): Promise<Record<string, Times>> {
  const { database, blobs } = services;
  const { compiled } = await liveRulebook(database);
  const run = (statement: string): Promise<unknown> => owner(ownerUrl, statement);
  const times: Record<string, Times> = {};
  const concerning = (what: Parameters<typeof mailConcerning>[1]) => async (): Promise<void> => {
    const condition = await mailConcerning(database, what, [compiled]);
    await rowsOf(database.worker, idRow, sql`SELECT id FROM emails WHERE ${condition} ORDER BY sent_at, id`);
  };
  times['mail that concerns a person'] = await timesOf(ROUNDS, concerning({ addresses: ['p8@company-8.example'], domains: [] }));
  times['mail that concerns an account'] = await timesOf(
    ROUNDS,
    concerning({ addresses: [], domains: [], records: { kind: 'account', ids: [7] } }),
  );
  times['mail that concerns the code of a deal'] = await timesOf(ROUNDS, concerning({ addresses: [], domains: [], codes: ['QH-7'] }));

  const newest = await rowsOf(
    database.worker,
    idRow,
    sql`SELECT id FROM emails WHERE outcome = 'filed' ORDER BY sent_at DESC LIMIT ${BATCH}`,
  );
  const ids = newest.map(({ id }) => id);
  const facts = await database.work((tx) => loadFacts(tx, blobs, ids, false));
  times[`records for a batch of ${BATCH}`] = await timesOf(ROUNDS, () =>
    database.work((tx) =>
      loadRecords(
        tx,
        facts.map((email) => email.facts),
        [compiled],
        [],
      ),
    ),
  );

  times['one email of a subject that a quarter has'] = await subjectOfMany(run, (work) => database.work(work));

  // The newest emails become one conversation, of which the last is undecided.
  await run(
    `UPDATE emails SET conversation_id = (SELECT max(id) FROM emails) WHERE id IN (SELECT id FROM emails WHERE outcome = 'filed' ORDER BY sent_at DESC LIMIT ${LONG})`,
  );
  times[`one more email of a conversation of ${LONG}`] = await timesOf(ROUNDS, async () => {
    await run(
      `UPDATE emails SET decided_at = NULL WHERE id = (SELECT id FROM emails WHERE outcome = 'filed' ORDER BY sent_at DESC, id DESC LIMIT 1)`,
    );
    const { decided } = await runDecisions(database, blobs, 'undecided');
    if (decided !== 1) throw new Error(`${decided} emails were decided instead of one`);
  });
  return times;
}

/** A quarter of all mail has one subject and refers to nothing; one more comes. Nothing of it is kept. */
async function subjectOfMany(
  run: (statement: string) => Promise<unknown>,
  inWork: (work: (tx: Tx) => Promise<void>) => Promise<void>,
): Promise<Times> {
  const given = {
    rulebook: { isOurs: (_: string, domain: string) => domain === 'quillmere.example', personKey: (address: string) => address },
  };
  let subject = '';
  await inWork(async (tx) => {
    subject = (await ThreadHasher.load(tx)).subject('Invoice');
  });
  await run(
    `INSERT INTO thread_hashes (email_id, sent_at, subject, people, copied) SELECT e.id, e.sent_at, CASE WHEN e.id % 4 = 0 THEN '${subject}' ELSE md5(e.id::text) END, ARRAY[md5('person' || e.id % 5000)], '{}' FROM emails e ON CONFLICT DO NOTHING`,
  );
  await run('VACUUM ANALYZE thread_hashes');
  const facts = {
    messageId: 'one-more@x.example',
    references: [],
    baseSubject: 'Invoice',
    date: { at: Date.now() - HOUR_MS, source: 'header' },
    isReply: true,
    isForward: false,
    participants: [{ role: 'from', address: 'p8@company-8.example', domain: 'company-8.example', name: '' }],
  } as unknown as EmailFacts;
  return timesOf(ROUNDS, () =>
    inWork(async (tx) => {
      await placeInFamilies(tx, [{ id: 2_000_000_000, facts }], given.rulebook as never);
      throw new Undone();
    }).catch((error: unknown) => {
      if (!(error instanceof Undone)) throw error;
    }),
  );
}

class Undone extends Error {}

async function main(): Promise<void> {
  const all: Record<string, Times>[] = [];
  for (const size of SIZES) all.push(await measuredWorld(size, measure));
  const ms = (value: number): string => (value < 10 ? value.toFixed(1) : value.toFixed(0));
  report(
    `work for one thing among ${SIZES.join(', ')} emails, the middle of ${ROUNDS} rounds in ms`,
    Object.keys(all[0] ?? {}).map((name) => {
      const middles = all.map((times) => times[name]?.middle ?? 0);
      return [name, `${middles.map(ms).join(', ')}; ${((middles.at(-1) ?? 0) / (middles[0] ?? 1)).toFixed(1)} times the fewest`];
    }),
  );
}

await main();
