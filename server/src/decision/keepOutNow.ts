import type { KeepOutEntry } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { DecideScope } from './decideRun';

/** The emails that an entry touches, kept-out ones included. */
export function scopeOf(entry: Pick<KeepOutEntry, 'kind' | 'value'>): Exclude<DecideScope, string> {
  return entry.kind === 'domain' ? { addresses: [], domains: [entry.value] } : { addresses: [entry.value], domains: [] };
}

/** Notes a step that can be undone. */
export async function noteUndo(tx: Tx, userId: number, summary: string, entryId: string): Promise<{ id: number; at: string }> {
  const { rows } = await tx.execute<{ id: number; created_at: string }>(
    sql`INSERT INTO undo_steps (user_id, summary, entry_id) VALUES (${userId}, ${summary}, ${entryId}) RETURNING id, created_at`,
  );
  return { id: rows[0]?.id ?? 0, at: new Date(rows[0]?.created_at ?? 0).toISOString() };
}
