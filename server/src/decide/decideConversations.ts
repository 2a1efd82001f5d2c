import type { ConversationMemory } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { BlobStore } from '../blobs/blobStore';
import type { Tx } from '../db/database';
import { announceDecided } from './announceDecided';
import { decideBatch } from './decideRun';
import type { StoredEmail } from './loadFacts';
import type { RulebookInForce } from './rulebookInForce';

const BATCH = 400;
/** Of more emails than this, open pages learn when they ask again. */
const MOST_TOLD = 2000;

/** What deciding conversations anew changed, and whom it created records for: further mail may concern them. */
export interface DecidedAgain {
  changed: number;
  addresses: string[];
  domains: string[];
}

/** Decides whole conversations anew, in order of date, in the transaction. */
export async function decideConversations(
  tx: Tx,
  blobs: BlobStore,
  conversations: readonly number[],
  inForce: RulebookInForce,
  { runId = null, isAsked }: { runId?: number | null; isAsked?: (email: StoredEmail) => boolean } = {},
): Promise<DecidedAgain> {
  const found: DecidedAgain = { changed: 0, addresses: [], domains: [] };
  if (conversations.length === 0) return found;
  const { rows } = await tx.execute<{ id: number }>(
    sql`SELECT id FROM emails WHERE conversation_id = ANY(${sql.param([...conversations])}::bigint[]) ORDER BY sent_at, id`,
  );
  // Whoever sees them now is told, too: what they see may be taken from them.
  await announceDecided(
    tx,
    rows.slice(0, MOST_TOLD).map((row) => row.id),
  );
  const memories = new Map<number, ConversationMemory>();
  for (let at = 0; at < rows.length; at += BATCH) {
    const ids = rows.slice(at, at + BATCH).map((row) => row.id);
    const stored = await decideBatch(tx, blobs, ids, inForce, memories, runId, isAsked);
    found.changed += stored.changed;
    found.addresses.push(...stored.createdAddresses);
    found.domains.push(...stored.createdDomains);
  }
  return found;
}
