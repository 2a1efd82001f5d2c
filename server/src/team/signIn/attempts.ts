import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { Refusal } from '../../base/refusal';
import { addressKey } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import type { Database } from '../../base/db/database';

/** Failed attempts that are let through within a quarter of an hour. */
export interface AttemptLimits {
  /** For one address or one account. */
  account: number;
  /** From one IP address. */
  ip: number;
}

export const ATTEMPT_LIMITS: AttemptLimits = { account: 10, ip: 100 };

/** What someone tries to get in by: each part is counted on its own. */
export interface Attempt {
  /** What is tried, so that a wrong code does not use up passwords. */
  kind: 'password' | 'code' | 'invitation';
  ip: string | undefined;
  /** As it was typed. */
  address?: string;
  accountId?: number | undefined;
}

const signInAttemptRow = z.object({ key_hash: z.string(), failures: z.number() });

/**
 * Counts an attempt before it is tried, in the database, so that neither many at once nor many processes let more through.
 *
 * @returns what takes it off again, when it was right
 * @returns a refusal when there were too many
 */
export async function countAttempt(database: Database, limits: AttemptLimits, attempt: Attempt): Promise<(() => Promise<void>) | Refusal> {
  const keys = keysOf(attempt, limits);
  const hashes = keys.map(({ key }) => createHash('sha256').update(key).digest('hex'));
  const rows = await rowsOf(
    database.worker,
    signInAttemptRow,
    sql`
    INSERT INTO sign_in_attempts AS a (key_hash, failures, since) SELECT DISTINCT k, 1, now() FROM unnest(${sql.param(hashes)}::text[]) AS k ORDER BY k
    ON CONFLICT (key_hash) DO UPDATE SET failures = CASE WHEN a.since < now() - interval '15 minutes' THEN 1 ELSE a.failures + 1 END,
      since = CASE WHEN a.since < now() - interval '15 minutes' THEN now() ELSE a.since END
    RETURNING key_hash, failures`,
  );
  const failures = new Map(rows.map((row) => [row.key_hash, row.failures]));
  if (keys.some(({ limit }, at) => (failures.get(hashes[at] ?? '') ?? 0) > limit))
    return new Refusal(
      'busy',
      'too-many-attempts',
      'There were too many attempts. Wait a quarter of an hour, or ask an administrator for a new password.',
    );
  return async () => {
    await database.worker.execute(
      sql`UPDATE sign_in_attempts SET failures = greatest(failures - 1, 0) WHERE key_hash = ANY(${sql.param(hashes)}::text[])`,
    );
  };
}

function keysOf({ kind, ip, address, accountId }: Attempt, limits: AttemptLimits): { key: string; limit: number }[] {
  const written = address?.normalize('NFKC').trim().toLowerCase();
  return [
    { key: `${kind} ip ${ip ?? ''}`, limit: limits.ip },
    ...(written === undefined
      ? []
      : [{ key: `${kind} address ${addressKey(written, { tagsTellApart: true })?.key ?? written}`, limit: limits.account }]),
    ...(accountId === undefined ? [] : [{ key: `${kind} account ${accountId}`, limit: limits.account }]),
  ];
}

/** Forgets what is too old to count. */
export async function dropOldAttempts(database: Database): Promise<void> {
  await database.worker.execute(sql`DELETE FROM sign_in_attempts WHERE since < now() - interval '1 day'`);
}
