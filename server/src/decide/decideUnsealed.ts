import { sql } from 'drizzle-orm';
import type { BlobStore } from '../blobs/blobStore';
import type { Tx } from '../db/database';
import { resetReadersOf } from '../mailboxes/ownership';
import type { DecidedAgain } from './decideConversations';
import { decideConversations } from './decideConversations';
import type { RulebookInForce } from './rulebookInForce';

/**
 * Decides conversations anew in which a seal was set or taken off. What comes to be unsealed is read by whoever uses its mailboxes by now, who may
 * be others than when it was sealed, and is then decided as theirs.
 */
export async function decideUnsealed(
  tx: Tx,
  blobs: BlobStore,
  conversations: readonly number[],
  inForce: RulebookInForce,
): Promise<DecidedAgain> {
  const these = sql`conversation_id = ANY(${sql.param([...conversations])}::bigint[])`;
  const before = await tx.execute<{ id: number }>(sql`SELECT id FROM emails WHERE ${these} AND outcome = 'sealed'`);
  const decided = await decideConversations(tx, blobs, conversations, inForce);
  if (before.rows.length === 0) return decided;
  const { rows } = await tx.execute<{ id: number }>(
    sql`SELECT id FROM emails WHERE id = ANY(${sql.param(before.rows.map((row) => row.id))}::bigint[]) AND outcome <> 'sealed'`,
  );
  const moved = await resetReadersOf(
    tx,
    rows.map((row) => row.id),
  );
  if (moved === 0) return decided;
  const again = await decideConversations(tx, blobs, conversations, inForce);
  return {
    changed: Math.max(decided.changed, again.changed),
    addresses: [...decided.addresses, ...again.addresses],
    domains: [...decided.domains, ...again.domains],
  };
}
