import { calendarAccounts, calendars, mailboxSecrets, userSecrets, workspaceSecrets } from '../db/schema';
import { z } from 'zod';
import { rowsOf } from '../db/rows';
import { sql, eq } from 'drizzle-orm';
import type { Database, Tx } from '../db/database';
import type { KeyRing } from './keyRing';
import { calendarBelongsTo, factorBelongsTo, mailboxBelongsTo } from './sealedFor';

const mailboxSecretRow = z.object({ mailbox_id: z.number(), sealed: z.string() });

/** Seals every secret with a new key and throws the old ones away. @returns how many were sealed again */
export async function rotateKeys(services: { database: Database; keyRing: KeyRing }): Promise<number> {
  services.keyRing.addKey();
  const count = await services.database.work(async (tx) => {
    const rows = await rowsOf(tx, mailboxSecretRow, sql`SELECT mailbox_id, sealed FROM mailbox_secrets ORDER BY mailbox_id FOR UPDATE`);
    for (const row of rows) {
      const plain = services.keyRing.open(row.sealed, mailboxBelongsTo(row.mailbox_id));
      await tx
        .update(mailboxSecrets)
        .set({ sealed: services.keyRing.seal(plain, mailboxBelongsTo(row.mailbox_id)) })
        .where(eq(mailboxSecrets.mailboxId, row.mailbox_id));
    }
    return rows.length + (await rotateOthers(tx, services.keyRing));
  });
  services.keyRing.dropOldKeys();
  return count;
}

const userSecretRow = z.object({ user_id: z.number(), sealed_key: z.string() });

const workspaceSecretRow = z.object({ name: z.string(), sealed: z.string() });

async function rotateOthers(tx: Tx, keyRing: KeyRing): Promise<number> {
  const again = (sealed: string, belongs: string): string => keyRing.seal(keyRing.open(sealed, belongs), belongs);
  const factors = await rowsOf(tx, userSecretRow, sql`SELECT user_id, sealed_key FROM user_secrets ORDER BY user_id FOR UPDATE`);
  for (const row of factors)
    await tx
      .update(userSecrets)
      .set({ sealedKey: again(row.sealed_key, factorBelongsTo(row.user_id)) })
      .where(eq(userSecrets.userId, row.user_id));
  const others = await rowsOf(tx, workspaceSecretRow, sql`SELECT name, sealed FROM workspace_secrets ORDER BY name FOR UPDATE`);
  for (const row of others)
    await tx
      .update(workspaceSecrets)
      .set({ sealed: again(row.sealed, row.name) })
      .where(eq(workspaceSecrets.name, row.name));
  return factors.length + others.length + (await rotateCalendars(tx, again));
}

const calendarSecretRow = z.object({ id: z.number(), mailbox_id: z.number(), sealed: z.string() });

async function rotateCalendars(tx: Tx, again: (sealed: string, belongs: string) => string): Promise<number> {
  const accounts = await rowsOf(
    tx,
    calendarSecretRow,
    sql`SELECT mailbox_id AS id, mailbox_id, sealed FROM calendar_accounts WHERE sealed IS NOT NULL ORDER BY 1 FOR UPDATE`,
  );
  for (const { mailbox_id: mailboxId, sealed } of accounts)
    await tx
      .update(calendarAccounts)
      .set({ sealed: again(sealed, calendarBelongsTo(mailboxId)) })
      .where(eq(calendarAccounts.mailboxId, mailboxId));
  const subscribed = await rowsOf(
    tx,
    calendarSecretRow,
    sql`SELECT id, mailbox_id, sealed FROM calendars WHERE sealed IS NOT NULL ORDER BY id FOR UPDATE`,
  );
  for (const row of subscribed)
    await tx
      .update(calendars)
      .set({ sealed: again(row.sealed, calendarBelongsTo(row.mailbox_id)) })
      .where(eq(calendars.id, row.id));
  return accounts.length + subscribed.length;
}
