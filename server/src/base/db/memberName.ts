import { and, eq } from 'drizzle-orm';
import type { Db, Tx } from './database';
import { users } from './schema';

/** The name of an active member, null where there is none of this id. */
export async function memberName(db: Db | Tx, id: number): Promise<string | null> {
  const [member] = await db
    .select({ name: users.name })
    .from(users)
    .where(and(eq(users.id, id), eq(users.active, true)));
  return member?.name ?? null;
}
