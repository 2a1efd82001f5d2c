import { z } from 'zod';
import { manyRowsOf } from '../../base/db/rows';
import type { CompiledRulebook, ConversationMemory } from '@fulvet/core';
import type { TellsApart } from '../../base/db/personKey';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { bigints } from '../../base/db/copyRows';
import type { Database, Db, Tx } from '../../base/db/database';
import type { DecidedEmail } from '../decideInOrder';
import { decideInOrder } from '../decideInOrder';
import type { MadeKind } from '../../records/recordSnapshot';
import { loadWholeDirectory } from '../inputs/loadDirectory';
import type { ReadEmail } from '../inputs/leanFacts';
import type { StoredEmail } from '../inputs/loadFacts';

/** A record that one pass creates can concern emails before it; more passes than this would be a fault. */
const MAX_PASSES = 8;

/** Milliseconds between two words about the progress. */
const TELL_EVERY = 200;

/** Which past mail: from a time on, in some mailboxes; null and none: all. */
export interface Span {
  since: string | null;
  mailboxes: readonly string[];
}

/** The emails of a span with the rest of their conversations; those outside of the span are remembered as they stand. */
export interface SpanEmails {
  total: number;
  /** How many of them are in the span. */
  inSpan: number;
  isInSpan: (id: number) => boolean;
  /** A condition on `e` that finds them, without parameters. */
  where: SQL;
}

/** Sealed emails are no part of any walk over past mail: not in its numbers, and not in what it finds. */
const NOT_SEALED = sql`e.outcome IS DISTINCT FROM 'sealed'`;

const emailRow = z.object({ total: z.number() });

const spanRow = z.object({ id: z.number(), in_span: z.boolean() });

/** Finds the emails of the span and the rest of their conversations. */
export async function emailsOfSpan(db: Db | Tx, { since, mailboxes }: Span): Promise<SpanEmails> {
  if (since === null && mailboxes.length === 0) {
    const rows = await manyRowsOf(db, emailRow, sql`SELECT count(*)::int AS total FROM emails e WHERE ${NOT_SEALED}`);
    const total = rows[0]?.total ?? 0;
    return { total, inSpan: total, isInSpan: () => true, where: NOT_SEALED };
  }
  const rows = await manyRowsOf(
    db,
    spanRow,
    sql`
    WITH wanted AS MATERIALIZED (SELECT e.id, e.conversation_id FROM emails e
      WHERE ${NOT_SEALED} AND (${since}::timestamptz IS NULL OR e.sent_at >= ${since}::timestamptz)
        AND (${mailboxes.length} = 0 OR EXISTS (SELECT FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id WHERE s.email_id = e.id AND m.address = ANY(${sql.param([...mailboxes])}::text[]))))
    SELECT e.id, w.id IS NOT NULL AS in_span FROM emails e LEFT JOIN wanted w ON w.id = e.id
    WHERE ${NOT_SEALED} AND (w.id IS NOT NULL OR e.conversation_id IN (SELECT conversation_id FROM wanted))`,
  );
  const inSpan = new Set(rows.filter((row) => row.in_span).map((row) => row.id));
  const ids = rows.map((row) => row.id);
  return {
    total: ids.length,
    inSpan: inSpan.size,
    isInSpan: (id) => inSpan.has(id),
    where: sql`e.id = ANY(${bigints(ids)})`,
  };
}

/** A record that a rule created from an email. */
export interface MadeRecord {
  kind: MadeKind;
  id: number;
  /** The address or the domain that it was created for. */
  via: string;
  /** The email that it was created from. */
  emailId: number;
}

/** What is done with the decisions as they are made. */
export interface PastWork {
  emails: SpanEmails;
  rulebookFor: (email: StoredEmail) => CompiledRulebook;
  /** All that it may give. */
  rulebooks: readonly CompiledRulebook[];
  exchangesFor: TellsApart | undefined;
  /** Records that are taken as not there; created again, each keeps its id. */
  setAside?: readonly MadeRecord[];
  /** Reads the facts of the emails in order of date, a batch at a time, within one view of the database. */
  read: (tx: Tx) => AsyncIterable<ReadEmail[]>;
  /** A pass begins; what the one before gave is void. */
  begin: (names: ReadonlyMap<string, string>) => Promise<void>;
  batch: (decided: readonly DecidedEmail[]) => Promise<void>;
  /** Emails that stay as they stand whatever else is decided. */
  settled?: (emails: readonly StoredEmail[]) => void;
  /** Told between batches; throws to end. */
  progress: (done: number, total: number) => Promise<void>;
}

/**
 * Decides past mail without storing anything. Created records live in an overlay on the directory. As live, mail that was decided before a
 * record was created is decided again, until nothing new is created.
 */
export async function decidePast(database: Database, work: PastWork): Promise<void> {
  const reading = <T>(read: (tx: Tx) => Promise<T>): Promise<T> =>
    database.work(read, { accessMode: 'read only', isolationLevel: 'repeatable read' });
  const setAside = new Map((work.setAside ?? []).map((record) => [`${record.kind} ${record.via}`, record]));
  const without = new Set([...setAside.values()].map((record) => `${record.kind}:${record.id}`));
  const { directory, names } = await reading((tx) => loadWholeDirectory(tx, work.rulebooks, { exchangesFor: work.exchangesFor, without }));
  const { total, isInSpan } = work.emails;
  let created = 0;
  const temporary = {
    next: (kind: string, via: string): number => {
      created += 1;
      return setAside.get(`${kind} ${via}`)?.id ?? -created;
    },
  };
  for (let pass = 0; pass < MAX_PASSES; pass += 1) {
    const before = created;
    const memories = new Map<number, ConversationMemory>();
    await work.begin(names);
    await reading(async (tx) => {
      let done = 0;
      let told = 0;
      for await (const found of work.read(tx)) {
        if (performance.now() - told > TELL_EVERY) {
          await work.progress(done, total);
          told = performance.now();
        }
        const settled = new Set(found.filter((email) => email.settled && isInSpan(email.email.facts.id)).map((email) => email.email));
        const stays = (email: StoredEmail): boolean => !isInSpan(email.facts.id) || settled.has(email);
        const all = found.map((email) => email.email);
        const decided = decideInOrder(all, work.rulebookFor, directory, memories, temporary, stays);
        work.settled?.([...settled]);
        await work.batch(decided);
        done += found.length;
      }
    });
    await work.progress(total, total);
    // Who was created late in the first pass is known to all mail in the next.
    if (created === before) return;
  }
}
