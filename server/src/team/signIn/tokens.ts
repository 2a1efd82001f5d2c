import { accessTokens } from '../../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { tokenScope } from '@fulvet/contract';
import type { TokenScope } from '@fulvet/contract';
import { createHash, randomBytes } from 'node:crypto';
import { sql, eq } from 'drizzle-orm';
import type { Db, Tx } from '../../base/db/database';

const PREFIX = 'fulvet_';
const ALL: readonly TokenScope[] = ['read', 'write', 'admin'];

export interface MadeToken {
  token: string;
  id: number;
  createdAt: Date;
  expiresAt: Date | null;
}

const accessTokenRow = z.object({ id: z.number(), created_at: z.string(), expires_at: z.string().nullable() });

/** Makes an access token. Only its hash is stored; 256 random bits need no slow hash. */
export async function createToken(
  db: Db | Tx,
  userId: number,
  name: string,
  { scopes = ALL, days = null }: { scopes?: readonly TokenScope[]; days?: number | null } = {},
): Promise<MadeToken> {
  const token = PREFIX + randomBytes(32).toString('base64url');
  const rows = await rowsOf(
    db,
    accessTokenRow,
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

const tokenUserRow = z.object({ id: z.number(), user_id: z.number(), scopes: z.array(tokenScope), stale: z.boolean() });

/** Whom a token stands for and what it may do, or null when it is not good (any more). */
export async function userOfToken(db: Db, token: string): Promise<{ userId: number; scopes: TokenScope[] } | null> {
  if (!token.startsWith(PREFIX)) return null;
  const rows = await rowsOf(
    db,
    tokenUserRow,
    sql`SELECT id, user_id, scopes, coalesce(last_used_at < now() - interval '1 minute', true) AS stale FROM access_tokens WHERE token_hash = ${tokenHash(token)} AND revoked_at IS NULL AND (expires_at IS NULL OR expires_at > now())`,
  );
  const [row] = rows;
  if (!row) return null;
  if (row.stale)
    await db
      .update(accessTokens)
      .set({ lastUsedAt: sql`now()` })
      .where(eq(accessTokens.id, row.id));
  return { userId: row.user_id, scopes: row.scopes };
}

function tokenHash(token: string): string {
  return createHash('sha256').update(token).digest('hex');
}
