import { createHash, randomBytes } from 'node:crypto';
import { sql } from 'drizzle-orm';
import type { Db, Tx } from '../db/database';

const PREFIX = 'fulvet_';

/** Makes an access token. Only its hash is stored; 256 random bits need no slow hash. */
export async function createToken(db: Db | Tx, userId: number, name: string): Promise<{ token: string; id: number; createdAt: Date }> {
  const token = PREFIX + randomBytes(32).toString('base64url');
  const { rows } = await db.execute<{ id: number; created_at: string }>(
    sql`INSERT INTO access_tokens (user_id, name, token_hash) VALUES (${userId}, ${name}, ${tokenHash(token)}) RETURNING id, created_at`,
  );
  return { token, id: rows[0]?.id ?? 0, createdAt: new Date(rows[0]?.created_at ?? 0) };
}

/** The user that a token stands for, or null. */
export async function userOfToken(db: Db, token: string): Promise<number | null> {
  if (!token.startsWith(PREFIX)) return null;
  const { rows } = await db.execute<{ user_id: number }>(
    sql`UPDATE access_tokens SET last_used_at = now() WHERE token_hash = ${tokenHash(token)} AND revoked_at IS NULL RETURNING user_id`,
  );
  return rows[0]?.user_id ?? null;
}

function tokenHash(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}
