import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

/** Where what emails say is kept; a kept-out email has rows in none of them. */
const CONTENTS = ['email_contents', 'dockets', 'participants', 'attachments', 'meetings'] as const;

/** Forgets what these emails say; that they exist stays. */
export async function dropContents(tx: Tx, ids: readonly number[]): Promise<void> {
  if (ids.length === 0) return;
  for (const table of CONTENTS)
    await tx.execute(sql`DELETE FROM ${sql.identifier(table)} WHERE email_id = ANY(${sql.param([...ids])}::bigint[])`);
}
