import { idRow, rowsOf } from '../base/db/rows';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';

/** The member with an address, or null. */
export async function idOfMember(tx: Tx, email: string): Promise<number | null> {
  const rows = await rowsOf(tx, idRow, sql`SELECT id FROM users WHERE lower(email) = lower(${email})`);
  return rows[0]?.id ?? null;
}

/** The account of a name, or null. */
export async function idOfAccount(tx: Tx, name: string): Promise<number | null> {
  const rows = await rowsOf(tx, idRow, sql`SELECT id FROM accounts WHERE lower(name) = lower(${name})`);
  return rows[0]?.id ?? null;
}

const emailRow = z.object({ email: z.string() });

/** The address of a member, or null. */
export async function emailOfMember(tx: Tx, id: number): Promise<string | null> {
  const rows = await rowsOf(tx, emailRow, sql`SELECT email FROM users WHERE id = ${id}`);
  return rows[0]?.email ?? null;
}
