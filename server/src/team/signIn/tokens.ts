import type { TokenScope } from '@fulvet/contract';
import { createHash, randomBytes } from 'node:crypto';
import { sql } from 'drizzle-orm';
import type { Db, Tx } from '../../base/db/database';

const PREFIX = 'fulvet_';
const ALL: readonly TokenScope[] = ['read', 'write', 'admin'];

export interface MadeToken {
  token: string;
  id: number;
  createdAt: Date;
  expiresAt: Date | null;
}

/** Makes an access token. Only its hash is stored; 256 random bits need no slow hash. */
export async function createToken(
  db: Db | Tx,
  userId: number,
  name: string,
  { scopes = ALL, days = null }: { scopes?: readonly TokenScope[]; days?: number | null } = {},
): Promise<MadeToken> {
  const token = PREFIX + randomBytes(32).toString('base64url');
  const { rows } = await db.execute<{ id: number; created_at: string; expires_at: string | null }>(
    sql`INSERT INTO access_tokens (user_id, name, token_hash, scopes, expires_at) VALUES (${userId}, ${name}, ${tokenHash(token)}, ${sql.param([...new Set(scopes)])}::text[], now() + make_interval(days => ${days}::int)) RETURNING id, created_at, expires_at`,
  );
  const [row] = rows;
  return {
    token,
    id: row?.id ?? 0,
    createdAt: new Date(row?.created_at ?? 0),
    expiresAt: row?.expires_at ? new Date(row.expires_at) : null,
  };
}

/** Whom a token stands for and what it may do, or null when it is not good (any more). */
export async function userOfToken(db: Db, token: string): Promise<{ userId: number; scopes: TokenScope[] } | null> {
  if (!token.startsWith(PREFIX)) return null;
  const { rows } = await db.execute<{ id: number; user_id: number; scopes: TokenScope[]; stale: boolean }>(
    sql`SELECT id, user_id, scopes, coalesce(last_used_at < now() - interval '1 minute', true) AS stale FROM access_tokens WHERE token_hash = ${tokenHash(token)} AND revoked_at IS NULL AND (expires_at IS NULL OR expires_at > now())`,
  );
  const [row] = rows;
  if (!row) return null;
  if (row.stale) await db.execute(sql`UPDATE access_tokens SET last_used_at = now() WHERE id = ${row.id}`);
  return { userId: row.user_id, scopes: row.scopes };
}

function tokenHash(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}
