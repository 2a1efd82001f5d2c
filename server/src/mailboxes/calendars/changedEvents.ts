import type { EmailFacts } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { BlobPlace } from '../../base/blobs/blobStore';
import type { Db, Tx } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import type { Sources } from '../../base/reading/sources';
import { dropContents, insertContents } from '../../emails/contents';
import { eraseSources } from '../../emails/store/eraseSources';
import { Forgotten, keptOf } from '../../emails/store/forgotten';
import { notePlaces } from '../../emails/store/storeBatch';
import type { CalendarPlace } from './calendarPlace';
import type { StoredEvent } from './knownEvents';

/** What an event says now. */
export interface ChangedEvent {
  id: number;
  facts: EmailFacts;
  /** Null where someone who is to stay forgotten takes part. */
  place: BlobPlace | null;
  emptied: boolean;
}

export async function changesOf(
  db: Db,
  blobs: Sources,
  events: readonly StoredEvent[],
  { rulebook }: CalendarPlace,
): Promise<ChangedEvent[]> {
  if (events.length === 0) return [];
  const forgotten = await Forgotten.load(db);
  const kept = events.map(({ facts }) => keptOf(facts, forgotten, (address, domain) => rulebook.isOurs(address, domain)));
  const whole = events.filter((_, at) => !kept[at]);
  const places = await blobs.put(whole.map(({ raw }) => raw));
  return events.map((event, at) => {
    const without = kept[at];
    const id = event.before?.id ?? 0;
    if (without) return { id, facts: without.facts, place: null, emptied: without.emptied };
    return { id, facts: event.facts, place: places[whole.indexOf(event)] ?? null, emptied: false };
  });
}

/**
 * Puts what an event says now in place of what it said; who reads it, where it is filed by hand and what is sealed stays.
 *
 * @returns where the sources lie that are to be overwritten
 */
export async function rewrite(tx: Tx, events: readonly ChangedEvent[]): Promise<BlobPlace[]> {
  if (events.length === 0) return [];
  const ids = events.map(({ id }) => id);
  const outdated = await eraseSources(tx, await alone(tx, ids));
  await notePlaces(
    tx,
    events.flatMap(({ place }) => place ?? []),
  );
  await dropContents(tx, ids);
  const rows = events.map(({ id, place, facts }) => ({
    id,
    blob: place?.sha256 ?? null,
    sent_at: new Date(facts.date.at).toISOString(),
    size: facts.size,
    problems: facts.problems,
  }));
  await tx.execute(sql`UPDATE emails e SET blob = n.blob, sent_at = n.sent_at, size = n.size, problems = n.problems, decided_at = NULL
    FROM json_to_recordset(${JSON.stringify(rows)}::json) AS n(id bigint, blob text, sent_at timestamptz, size int, problems jsonb) WHERE e.id = n.id`);
  await insertContents(
    tx,
    events.filter(({ emptied }) => !emptied),
  );
  return outdated;
}

/** Those of these emails of which no other has the same source. */
export async function alone(tx: Tx, ids: readonly number[]): Promise<number[]> {
  const rows = await rowsOf(
    tx,
    idRow,
    sql`SELECT e.id FROM emails e WHERE e.id = ANY(${sql.param([...ids])}::bigint[]) AND NOT EXISTS (SELECT FROM emails o WHERE o.blob = e.blob AND o.id <> e.id)`,
  );
  return rows.map(({ id }) => id);
}
