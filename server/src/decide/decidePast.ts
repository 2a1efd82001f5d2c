import type { CompiledRulebook, ConversationMemory } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Database, Tx } from '../db/database';
import type { DecidedEmail } from './decideInOrder';
import { decideInOrder } from './decideInOrder';
import { loadWholeDirectory } from './loadDirectory';
import type { StoredEmail } from './loadFacts';

const BATCH = 1000;
/** A record that one pass creates can concern emails before it; more passes than this would be a fault. */
const MAX_PASSES = 8;

/** Which past mail: from a time on, in some mailboxes; null and none: all. */
export interface Span {
  since: string | null;
  mailboxes: readonly string[];
}

/** An email of a conversation in the span; those outside of the span are remembered as they stand. */
export interface PastEmail {
  id: number;
  inSpan: boolean;
}

/** Asked to end. */
export class Cancelled extends Error {}

/** The emails of the span with the rest of their conversations, in order of date. */
export async function emailsOfSpan(database: Database, { since, mailboxes }: Span): Promise<PastEmail[]> {
  const { rows } = await database.worker.execute<{ id: number; in_span: boolean }>(sql`
    WITH wanted AS MATERIALIZED (SELECT e.id, e.conversation_id FROM emails e
      WHERE (${since}::timestamptz IS NULL OR e.sent_at >= ${since}::timestamptz)
        AND (${mailboxes.length} = 0 OR EXISTS (SELECT FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id WHERE s.email_id = e.id AND m.address = ANY(${sql.param([...mailboxes])}::text[]))))
    SELECT e.id, w.id IS NOT NULL AS in_span FROM emails e LEFT JOIN wanted w ON w.id = e.id
    WHERE w.id IS NOT NULL OR e.conversation_id IN (SELECT conversation_id FROM wanted) ORDER BY e.sent_at, e.id`);
  return rows.map((row) => ({ id: row.id, inSpan: row.in_span }));
}

/** Reads the facts of emails in the order of their ids; `settled` ones need no decision. */
export interface FactsReader {
  read: (tx: Tx, ids: readonly number[]) => Promise<{ email: StoredEmail; settled: boolean }[]>;
}

/** What is done with the decisions as they are made. */
export interface PastWork {
  emails: readonly PastEmail[];
  rulebookFor: (email: StoredEmail) => CompiledRulebook;
  needsExchanges: boolean;
  /** Opens the way to read facts, within one view of the database a pass. */
  reader: (tx: Tx) => Promise<FactsReader>;
  /** A pass begins; what the one before gave is void. */
  begin: (names: ReadonlyMap<string, string>) => Promise<void>;
  batch: (decided: readonly DecidedEmail[]) => Promise<void>;
  /** Emails that stay as they stand whatever else is decided. */
  settled?: (emails: readonly StoredEmail[]) => void;
  /** Told between batches; throws {@link Cancelled} to end. */
  progress: (done: number, total: number) => Promise<void>;
}

/**
 * Decides past mail without storing anything. Created records live in an overlay on the directory. As live, mail that was decided before a
 * record was created is decided again, until nothing new is created.
 */
export async function decidePast(database: Database, work: PastWork): Promise<void> {
  const reading = <T>(read: (tx: Tx) => Promise<T>): Promise<T> => database.worker.transaction(read, { accessMode: 'read only' });
  const { directory, names } = await reading((tx) => loadWholeDirectory(tx, work.needsExchanges));
  const ids = work.emails.map((one) => one.id);
  const inSpan = new Set(work.emails.filter((one) => one.inSpan).map((one) => one.id));
  let lastId = 0;
  const temporary = { next: () => (lastId -= 1) };
  for (let pass = 0; pass < MAX_PASSES; pass += 1) {
    const before = lastId;
    const memories = new Map<number, ConversationMemory>();
    await work.begin(names);
    const reader = await reading((tx) => work.reader(tx));
    const read = (at: number): Promise<{ email: StoredEmail; settled: boolean }[]> =>
      reading((tx) => reader.read(tx, ids.slice(at, at + BATCH)));
    // The next batch is read while one is decided.
    let next = read(0);
    for (let at = 0; at < ids.length; at += BATCH) {
      await work.progress(at, ids.length);
      const found = await next;
      next = at + BATCH < ids.length ? read(at + BATCH) : Promise.resolve([]);
      next.catch(() => undefined);
      const settled = new Set(found.filter((one) => one.settled && inSpan.has(one.email.facts.id)).map((one) => one.email));
      const rulebookFor = (email: StoredEmail): CompiledRulebook | null =>
        inSpan.has(email.facts.id) && !settled.has(email) ? work.rulebookFor(email) : null;
      const decided = decideInOrder(
        found.map((one) => one.email),
        rulebookFor,
        directory,
        memories,
        temporary,
      );
      work.settled?.([...settled]);
      await work.batch(decided);
    }
    await work.progress(ids.length, ids.length);
    // Who was created late in the first pass is known to all mail in the next.
    if (lastId === before) return;
  }
}
