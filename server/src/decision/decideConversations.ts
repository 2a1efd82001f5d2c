import { idRow, rowsOf } from '../base/db/rows';
import type { ConversationMemory } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Sources } from '../base/reading/sources';
import type { Tx } from '../base/db/database';
import { resetReadersOf } from '../emails/owners';
import { announceDecided } from './announceDecided';
import { decideBatch } from './decideBatch';
import type { StoredEmail } from './inputs/loadFacts';
import type { RulebookInForce } from '../rulebook/rulebookInForce';

const BATCH = 400;
/** Of more emails than this, open pages learn when they ask again. */
const MOST_TOLD = 2000;

/** What deciding conversations again changed, and whom it created records for: further mail may concern them. */
export interface DecidedAgain {
  changed: number;
  addresses: string[];
  domains: string[];
}

interface DecideOptions {
  runId?: number | null;
  isAsked?: (email: StoredEmail) => boolean;
}

/** Decides whole conversations again, in order of date, in the transaction. */
export function decideConversations(
  tx: Tx,
  blobs: Sources,
  conversations: readonly number[],
  inForce: RulebookInForce,
  options: DecideOptions = {},
): Promise<DecidedAgain> {
  return tellingPages(tx, conversations, (ids) => decideInBatches(tx, blobs, ids, inForce, options));
}

/**
 * Decides conversations again in which a seal was set or taken off. What comes to be unsealed is read by whoever uses its mailboxes by now, who may
 * be others than when it was sealed, and is then decided as theirs. Open pages are told of what stands at the end alone: in between, words of
 * former readers may still share an email.
 */
export function decideUnsealed(tx: Tx, blobs: Sources, conversations: readonly number[], inForce: RulebookInForce): Promise<DecidedAgain> {
  return tellingPages(tx, conversations, async (ids) => {
    const these = sql`id = ANY(${sql.param([...ids])}::bigint[])`;
    const before = await rowsOf(tx, idRow, sql`SELECT id FROM emails WHERE ${these} AND outcome = 'sealed'`);
    const decided = await decideInBatches(tx, blobs, ids, inForce);
    const unsealed = await rowsOf(
      tx,
      idRow,
      sql`SELECT id FROM emails WHERE id = ANY(${sql.param(before.map((row) => row.id))}::bigint[]) AND outcome <> 'sealed'`,
    );
    const released = unsealed.map((row) => row.id);
    if ((await resetReadersOf(tx, released)) === 0) return decided;
    const again = await decideInBatches(tx, blobs, ids, inForce);
    return {
      changed: Math.max(decided.changed, again.changed),
      emailIds: [...new Set([...decided.emailIds, ...released, ...again.emailIds])],
      addresses: [...decided.addresses, ...again.addresses],
      domains: [...decided.domains, ...again.domains],
    };
  });
}

type ChangedEmails = DecidedAgain & { emailIds: number[] };

/** Tells those who see the conversations before they are decided, since what they see may be taken from them, and those who see what changed after. */
async function tellingPages(
  tx: Tx,
  conversations: readonly number[],
  decide: (ids: readonly number[]) => Promise<ChangedEmails>,
): Promise<DecidedAgain> {
  if (conversations.length === 0) return { changed: 0, addresses: [], domains: [] };
  const rows = await rowsOf(
    tx,
    idRow,
    sql`SELECT id FROM emails WHERE conversation_id = ANY(${sql.param([...conversations])}::bigint[]) ORDER BY sent_at, id`,
  );
  const ids = rows.map((row) => row.id);
  await announceDecided(tx, ids.slice(0, MOST_TOLD));
  const { emailIds, ...decided } = await decide(ids);
  await announceDecided(tx, emailIds);
  return decided;
}

async function decideInBatches(
  tx: Tx,
  blobs: Sources,
  ids: readonly number[],
  inForce: RulebookInForce,
  { runId = null, isAsked }: DecideOptions = {},
): Promise<ChangedEmails> {
  const found: ChangedEmails = { changed: 0, emailIds: [], addresses: [], domains: [] };
  const memories = new Map<number, ConversationMemory>();
  for (let at = 0; at < ids.length; at += BATCH) {
    const stored = await decideBatch(tx, blobs, ids.slice(at, at + BATCH), inForce, memories, runId, isAsked);
    found.changed += stored.changed;
    found.emailIds.push(...stored.emailIds);
    found.addresses.push(...stored.createdAddresses);
    found.domains.push(...stored.createdDomains);
  }
  return found;
}
