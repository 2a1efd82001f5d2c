import { idRow, rowsOf } from '../../base/db/rows';
import type { CompiledRulebook, ConversationMemory, RecordKind, Records } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Sources } from '../../base/reading/sources';
import type { Tx } from '../../base/db/database';
import { loadFacts } from './loadFacts';
import type { StoredEmail } from './loadFacts';
import { loadRecords } from './loadRecords';
import { memoriesBefore } from './memoriesBefore';

/** All that emails are decided from, as it stands. */
export interface DecisionInputs {
  /** In order of date; without those whose source cannot be read. */
  emails: StoredEmail[];
  records: Records;
  /** What their conversations said before them, by conversation. */
  memories: Map<number, ConversationMemory>;
}

interface Options {
  /** What conversations said before, where emails before these were decided in the same go; else it is loaded. */
  memories?: Map<number, ConversationMemory>;
  /** Records that are asked about beside those that the emails lead to. */
  about?: readonly { kind: RecordKind; id: number }[];
  /** Reads what they say even where no rule asks for it. */
  withText?: boolean;
}

/**
 * Loads what emails are decided from: whoever decides, live, over past mail, in trials and previews or to explain, starts here.
 *
 * @param rulebooks all by which they may be decided
 */
export async function loadInputs(
  tx: Tx,
  blobs: Sources,
  ids: readonly number[],
  rulebooks: readonly CompiledRulebook[],
  { memories, about = [], withText = false }: Options = {},
): Promise<DecisionInputs> {
  const emails = await loadFacts(tx, blobs, ids, withText || rulebooks.some((rulebook) => rulebook.needsText));
  const known = memories ?? (await memoriesBefore(tx, ids));
  const records = await loadRecords(
    tx,
    emails.map((email) => email.facts),
    rulebooks,
    [...about, ...[...known.values()].flatMap(recordsInMemory)],
  );
  return { emails, records, memories: known };
}

/** The records that an email may take over from its conversation. */
export function recordsInMemory({ deals, records }: ConversationMemory): { kind: RecordKind; id: number }[] {
  return [
    ...deals.map(({ dealId }) => ({ kind: 'deal' as const, id: dealId })),
    ...[...records].flatMap((key) => (key.startsWith('own:') ? [{ kind: 'own' as const, id: Number(key.slice(4)) }] : [])),
  ];
}

/** All emails of the conversations of these, in order of date: what is decided of one tells on those after it. */
export async function conversationsOf(tx: Tx, ids: readonly number[], most: number): Promise<number[]> {
  const rows = await rowsOf(
    tx,
    idRow,
    sql`SELECT id FROM emails WHERE conversation_id IN (SELECT conversation_id FROM emails WHERE id = ANY(${sql.param([...ids])}::bigint[])) ORDER BY sent_at, id LIMIT ${most}`,
  );
  return rows.map((row) => row.id);
}
