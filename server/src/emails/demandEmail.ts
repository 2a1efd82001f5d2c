import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

/** Makes sure that the acting user may know of an email. @returns a refusal otherwise */
export async function demandEmail(tx: Tx, id: number): Promise<Refusal | null> {
  const { rowCount } = await tx.execute(sql`SELECT FROM emails WHERE id = ${id}`);
  if (rowCount === 0) return notFound('email');
  return null;
}
