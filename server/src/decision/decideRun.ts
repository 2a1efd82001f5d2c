import { z } from 'zod';
import { idRow, manyRowsOf, rowsOf } from '../base/db/rows';
import type { ConversationMemory } from '@fulvet/core';
import { domainOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Sources } from '../base/reading/sources';
import type { Concerned } from '../base/concerned';
import type { Database, Tx } from '../base/db/database';
import { mailConcerning } from '../records/concernedMail';
import { RulebookInForce } from '../rulebook/rulebookInForce';
import { reportedAddresses } from '../emails/store/deliveryFailures';
import { announceDecided } from './announceDecided';
import { decideBatch } from './decideBatch';
import { improveNames } from './improveNames';
import { memoriesBefore } from './inputs/memoriesBefore';
import { takeBackUndeliverable } from './undeliverable';

/** Which emails a run decides. */
export type DecideScope = 'undecided' | Concerned;

export interface DecideProgress {
  done: number;
  total: number;
}

export interface DecideOptions {
  onProgress?: (progress: DecideProgress) => Promise<void> | void;
  /** Asked between batches; true ends the run. What is decided by then stands. */
  isCancelled?: () => boolean;
}

export interface DecideReport {
  decided: number;
  changed: number;
  cancelled: boolean;
}

const BATCH = 400;

/** A record that one run creates can concern emails of the next; more rounds than this would be a fault. */
const MAX_ROUNDS = 8;

const DECIDE_LOCK = 460203;

/**
 * Decides emails in order of date, in batches, each stored with its decisions in one transaction.
 *
 * Conversations are decided from their first undecided email on, so that answers follow what came before. When records are created, the emails of these
 * people and companies are decided again in the same run, so that past mail is filed under them too. One run at a time; those
 * who ask for what is undecided while such a run waits for its turn share it.
 */
export function runDecisions(database: Database, blobs: Sources, scope: DecideScope, options: DecideOptions = {}): Promise<DecideReport> {
  const queue = queueOf(database);
  if (scope === 'undecided' && queue.waiting) return queue.waiting;
  // Only one run of this process waits for the others' lock: each that waits there holds a connection, and the run at work needs some.
  const run = queue.last.then(() => {
    if (queue.waiting === run) queue.waiting = null;
    return decideUnderLock(database, blobs, scope, options);
  });
  queue.last = run.catch(() => undefined);
  if (scope === 'undecided') queue.waiting = run;
  return run;
}

interface RunQueue {
  last: Promise<unknown>;
  /** A run for what is undecided that has not begun. */
  waiting: Promise<DecideReport> | null;
}

const queues = new WeakMap<Database, RunQueue>();

function queueOf(database: Database): RunQueue {
  const known = queues.get(database) ?? { last: Promise.resolve(), waiting: null };
  queues.set(database, known);
  return known;
}

async function decideUnderLock(database: Database, blobs: Sources, scope: DecideScope, options: DecideOptions): Promise<DecideReport> {
  const lock = await database.workerPool.connect();
  try {
    await lock.query(`SELECT pg_advisory_lock(${DECIDE_LOCK})`);
    return await decideRounds(database, blobs, scope, options);
  } finally {
    await lock.query(`SELECT pg_advisory_unlock(${DECIDE_LOCK})`);
    lock.release();
  }
}

async function decideRounds(database: Database, blobs: Sources, scope: DecideScope, options: DecideOptions): Promise<DecideReport> {
  const inForce = await RulebookInForce.load(database);
  const report: DecideReport = { decided: 0, changed: 0, cancelled: false };
  let next: DecideScope | null = scope;
  const undeliverable = new Set<string>();
  for (let round = 0; next !== null && round < MAX_ROUNDS; round += 1) {
    const ids = await emailsInScope(database, next, inForce);
    const memories = new Map<number, ConversationMemory>();
    const addresses = new Set<string>();
    const domains = new Set<string>();
    for (let at = 0; at < ids.length; at += BATCH) {
      if (options.isCancelled?.()) return { ...report, cancelled: true };
      const stored = await database.work(async (tx) => {
        const these = ids.slice(at, at + BATCH);
        if (next === 'undecided') await recallConversations(tx, these, memories);
        const batch = await decideBatch(tx, blobs, these, inForce, memories);
        const named = await improveNames(tx, sql`p.email_id = ANY(${sql.param(batch.emailIds)}::bigint[])`, inForce.live.compiled);
        const reported = await reportedAddresses(tx, { emailIds: batch.emailIds }, inForce.rulebooks);
        await announceDecided(tx, batch.emailIds);
        return { ...batch, named, reported };
      });
      report.changed += stored.changed;
      for (const address of stored.createdAddresses) addresses.add(address);
      for (const address of stored.named) addresses.add(address);
      // What is new about an address that does not exist, or does after all, concerns the mail to it.
      for (const address of stored.reported) {
        if (undeliverable.has(address)) continue;
        undeliverable.add(address);
        addresses.add(address);
      }
      // Older mail with someone may be what was missing for a record that later mail, decided already, creates.
      // So may mail that comes in again.
      for (const address of round === 0 && scope === 'undecided' ? stored.tooFew : stored.tooFewAgain) addresses.add(address);
      for (const domain of stored.createdDomains) domains.add(domain);
      report.decided += Math.min(BATCH, ids.length - at);
      await options.onProgress?.({ done: Math.min(at + BATCH, ids.length), total: ids.length });
    }
    for (const address of addresses) if (undeliverable.has(address)) domains.add(domainOf(address));
    next = addresses.size + domains.size > 0 ? { addresses: [...addresses], domains: [...domains] } : null;
  }
  if (undeliverable.size > 0) await database.work((tx) => takeBackUndeliverable(tx, [...undeliverable], inForce.rulebooks));
  return report;
}

/** That an undecided email is more than a part of an import that is still being read: the import decides its mail as a whole, in order of date, once it has all of it. */
const isNotBeingRead = sql`(NOT EXISTS (SELECT FROM being_read)
  OR NOT EXISTS (SELECT FROM sightings s WHERE s.email_id = u.id AND s.import_id IN (SELECT b.id FROM being_read b))
  OR EXISTS (SELECT FROM sightings s WHERE s.email_id = u.id AND (s.import_id IS NULL OR s.import_id NOT IN (SELECT b.id FROM being_read b))))`;

const placedRow = z.object({ id: z.number(), conversation_id: z.number() });

/** Adds what conversations say before the first of these emails, of those that this run has not met. */
async function recallConversations(tx: Tx, emailIds: readonly number[], memories: Map<number, ConversationMemory>): Promise<void> {
  const rows = await manyRowsOf(
    tx,
    placedRow,
    sql`SELECT id, conversation_id FROM emails WHERE id = ANY(${sql.param([...emailIds])}::bigint[])`,
  );
  const met = rows.filter((row) => !memories.has(row.conversation_id)).map((row) => row.id);
  for (const [conversation, memory] of await memoriesBefore(tx, met)) memories.set(conversation, memory);
}

async function emailsInScope(database: Database, scope: DecideScope, inForce: RulebookInForce): Promise<number[]> {
  // What was decided before the first of these emails in its conversation stays as it is: it cannot depend on what comes later in it.
  const chosen =
    scope === 'undecided'
      ? sql`(WITH being_read AS MATERIALIZED (SELECT i.id FROM imports i JOIN work w ON w.id = i.work_id WHERE w.state = 'running' AND w.phase = 'reading')
          SELECT e.id, e.sent_at FROM emails e JOIN (
            SELECT DISTINCT ON (u.conversation_id) u.conversation_id, u.sent_at, u.id FROM emails u WHERE u.decided_at IS NULL AND ${isNotBeingRead} ORDER BY u.conversation_id, u.sent_at, u.id
          ) f ON f.conversation_id = e.conversation_id WHERE (e.sent_at, e.id) >= (f.sent_at, f.id)) e`
      : sql`emails WHERE ${await mailConcerning(database, scope, inForce.rulebooks)}`;
  const rows = await rowsOf(database.worker, idRow, sql`SELECT id FROM ${chosen} ORDER BY sent_at, id`);
  return rows.map((row) => row.id);
}
