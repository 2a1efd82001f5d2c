import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { sql } from 'drizzle-orm';
import type { Request } from 'express';
import { createHash, randomBytes } from 'node:crypto';
import type { SignedInSession, User } from '@fulvet/contract';
import { writeDown } from '../../base/audit';
import type { Database, Db, Tx } from '../../base/db/database';

export const SESSION_MS = 14 * 86_400_000;
/** So long after the password the code of the second factor is taken. */
export const CODE_MS = 5 * 60_000;
export const MOST_CODES = 5;

declare module 'express-session' {
  interface SessionData {
    userId: number;
    csrf: string;
    /** Milliseconds. */
    since: number;
    program: string;
    /** The provider vouched for the second factor. */
    viaProvider: boolean;
    /** The password was right, and the code is asked for. */
    pending: { userId: number; at: number; tries: number };
    /** A sign-in at the identity provider that was begun. */
    provider: { state: string; nonce: string; verifier: string };
  }
}

/** A new session for the request, so that one that was planted before is worth nothing. */
export function renewSession(req: Request): Promise<void> {
  return new Promise((resolve, reject) => {
    req.session.regenerate((error?: Error) => {
      if (error) reject(error);
      else resolve();
    });
  });
}

/** Signs the user in for good, and writes it down. */
export async function signInto(req: Request, database: Database, user: User, how: string, viaProvider = false): Promise<void> {
  await renewSession(req);
  req.session.userId = user.id;
  req.session.csrf = randomBytes(18).toString('base64url');
  req.session.since = Date.now();
  req.session.program = (req.get('user-agent') ?? '').slice(0, 200);
  if (viaProvider) req.session.viaProvider = true;
  await database.as(user.id, (tx) => writeDown(tx, user, { kind: 'sign-in', about: `signed in by ${how}`, subjectId: user.id }));
}

const publicId = (sid: string): string => createHash('sha256').update(`session ${sid}`).digest('hex').slice(0, 24);

const sessionRow = z.object({ sid: z.string(), since: z.number().nullable(), program: z.string().nullable(), expire: z.string() });

/** Where a member is signed in, the one that asks first. */
export async function sessionsOf(db: Db | Tx, userId: number, current: string | undefined): Promise<SignedInSession[]> {
  const rows = await rowsOf(
    db,
    sessionRow,
    sql`SELECT sid, (sess ->> 'since')::float8 AS since, sess ->> 'program' AS program, expire AT TIME ZONE current_setting('TimeZone') AS expire FROM session WHERE (sess ->> 'userId')::bigint = ${userId} AND expire > now() ORDER BY expire DESC`,
  );
  return rows
    .map((row) => ({
      id: publicId(row.sid),
      program: row.program ?? '',
      since: row.since === null ? null : new Date(row.since).toISOString(),
      lastSeenAt: new Date(new Date(row.expire).getTime() - SESSION_MS).toISOString(),
      current: row.sid === current,
    }))
    .sort((first, second) => Number(second.current) - Number(first.current));
}

const endedRow = z.object({ sid: z.string() });

/** Ends sessions of a member: one by its public id, or all but the one that asks. @returns how many */
export async function endSessions(db: Db | Tx, userId: number, which: string | null, current: string | undefined): Promise<number> {
  const rows = await rowsOf(db, endedRow, sql`SELECT sid FROM session WHERE (sess ->> 'userId')::bigint = ${userId}`);
  const ending = rows.map((row) => row.sid).filter((sid) => (which === null ? sid !== current : publicId(sid) === which));
  await db.execute(sql`DELETE FROM session WHERE sid = ANY(${sql.param(ending)}::text[])`);
  return ending.length;
}
