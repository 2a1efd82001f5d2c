import { userSecrets } from '../../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { sql, eq } from 'drizzle-orm';
import { createHash, randomBytes } from 'node:crypto';
import { Secret, TOTP } from 'otpauth';
import type { Db, Tx } from '../../base/db/database';
import type { KeyRing } from '../../base/secrets/keyRing';
import { factorBelongsTo } from '../../base/secrets/sealedFor';

const PERIOD = 30;

/** A clock may be this many periods off. */
const WINDOW = 1;

const RECOVERY_CODES = 10;

/** Time-based one-time codes as RFC 6238 says and authenticator programs expect: SHA-1, six digits, thirty seconds. */
function totpOf(key: string, label = ''): TOTP {
  return new TOTP({ issuer: 'Fulvet', label, secret: Secret.fromBase32(key), period: PERIOD, digits: 6, algorithm: 'SHA1' });
}

/** A new key, with the address by which authenticator programs take it up. */
export function newKey(label: string): { key: string; uri: string } {
  const key = new Secret({ size: 20 }).base32;
  return { key, uri: totpOf(key, label).toString() };
}

/** The code of a key at a time in milliseconds; for tests and for nothing else. */
export const codeAt = (key: string, at: number): string => totpOf(key).generate({ timestamp: at });

/** Takes up a new key; it counts from when the first code was given. */
export async function storeKey(db: Db | Tx, keyRing: KeyRing, userId: number, key: string): Promise<void> {
  const sealed = keyRing.seal(key, factorBelongsTo(userId));
  await db.execute(
    sql`INSERT INTO user_secrets (user_id, sealed_key) VALUES (${userId}, ${sealed}) ON CONFLICT (user_id) DO UPDATE SET sealed_key = excluded.sealed_key, recovery_hashes = '{}', last_step = 0`,
  );
}

const userSecretRow = z.object({ sealed_key: z.string(), last_step: z.number() });

/** Whether the code is right now and was not used before. A recovery code is good once. */
export async function takeCode(db: Db | Tx, keyRing: KeyRing, userId: number, code: string): Promise<boolean> {
  const rows = await rowsOf(db, userSecretRow, sql`SELECT sealed_key, last_step FROM user_secrets WHERE user_id = ${userId} FOR UPDATE`);
  const [row] = rows;
  if (!row) return false;
  const plain = code.replace(/[\s-]/g, '').toLowerCase();
  if (!/^\d{6}$/.test(plain)) {
    const used = await db.execute(
      sql`UPDATE user_secrets SET recovery_hashes = array_remove(recovery_hashes, ${hashOf(plain)}) WHERE user_id = ${userId} AND ${hashOf(plain)} = ANY(recovery_hashes)`,
    );
    return (used.rowCount ?? 0) > 0;
  }
  const delta = totpOf(keyRing.open(row.sealed_key, factorBelongsTo(userId))).validate({ token: plain, window: WINDOW });
  if (delta === null) return false;
  const step = Math.floor(Date.now() / 1000 / PERIOD) + delta;
  if (step <= row.last_step) return false;
  await db.update(userSecrets).set({ lastStep: step }).where(eq(userSecrets.userId, userId));
  return true;
}

/** New recovery codes; only their hashes are kept. 50 random bits each need no slow hash. */
export async function newRecoveryCodes(db: Db | Tx, userId: number): Promise<string[]> {
  const codes = Array.from({ length: RECOVERY_CODES }, () => {
    const text = BigInt(`0x${randomBytes(7).toString('hex')}`)
      .toString(36)
      .padStart(10, 'x')
      .slice(-10);
    return `${text.slice(0, 5)}-${text.slice(5)}`;
  });
  const hashes = codes.map((code) => hashOf(code.replace('-', '')));
  await db.update(userSecrets).set({ recoveryHashes: hashes }).where(eq(userSecrets.userId, userId));
  return codes;
}

const hashOf = (code: string): string => createHash('sha256').update(`recovery ${code}`).digest('hex');
