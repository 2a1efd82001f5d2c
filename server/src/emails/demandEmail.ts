import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { notFound } from '../base/refusal';

/** Makes sure that the acting user may know of an email. @throws 404 */
export async function demandEmail(tx: Tx, id: number): Promise<void> {
  const { rowCount } = await tx.execute(sql`SELECT FROM emails WHERE id = ${id}`);
  if (rowCount === 0) throw notFound('email');
}
