import { sql } from 'drizzle-orm';
import type { Database, Tx } from '../db/database';
import type { KeyRing } from './keyRing';
import { mailboxBelongsTo, factorBelongsTo } from './sealedFor';

/** Seals every secret with a new key and throws the old ones away. @returns how many were sealed anew */
export async function rotateKeys(services: { database: Database; keyRing: KeyRing }): Promise<number> {
  services.keyRing.addKey();
  const count = await services.database.work(async (tx) => {
    const { rows } = await tx.execute<{ mailbox_id: number; sealed: string }>(
      sql`SELECT mailbox_id, sealed FROM mailbox_secrets ORDER BY mailbox_id FOR UPDATE`,
    );
    for (const row of rows) {
      const plain = services.keyRing.open(row.sealed, mailboxBelongsTo(row.mailbox_id));
      await tx.execute(
        sql`UPDATE mailbox_secrets SET sealed = ${services.keyRing.seal(plain, mailboxBelongsTo(row.mailbox_id))} WHERE mailbox_id = ${row.mailbox_id}`,
      );
    }
    return rows.length + (await rotateOthers(tx, services.keyRing));
  });
  services.keyRing.dropOldKeys();
  return count;
}

async function rotateOthers(tx: Tx, keyRing: KeyRing): Promise<number> {
  const again = (sealed: string, belongs: string): string => keyRing.seal(keyRing.open(sealed, belongs), belongs);
  const factors = await tx.execute<{ user_id: number; sealed_key: string }>(
    sql`SELECT user_id, sealed_key FROM user_secrets ORDER BY user_id FOR UPDATE`,
  );
  for (const row of factors.rows)
    await tx.execute(
      sql`UPDATE user_secrets SET sealed_key = ${again(row.sealed_key, factorBelongsTo(row.user_id))} WHERE user_id = ${row.user_id}`,
    );
  const others = await tx.execute<{ name: string; sealed: string }>(
    sql`SELECT name, sealed FROM workspace_secrets ORDER BY name FOR UPDATE`,
  );
  for (const row of others.rows)
    await tx.execute(sql`UPDATE workspace_secrets SET sealed = ${again(row.sealed, row.name)} WHERE name = ${row.name}`);
  return factors.rows.length + others.rows.length;
}
