import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Sender } from '@fulvet/contract';
import type { Db, Tx } from '../../base/db/database';
import { moment, rowsOf } from '../../base/db/rows';
import { filledSignature } from './signature';

const senderRow = z.object({
  mailboxId: z.number(),
  address: z.string(),
  name: z.string(),
  signature: z.string(),
  isAlias: z.boolean(),
  isProven: z.boolean(),
  codeSentAt: moment.nullable(),
});

const rightsRow = z.object({ maySend: z.boolean(), mayShare: z.boolean(), mayBulk: z.boolean() });

/** What the workspace lets a member do. */
export async function writingRightsOf(tx: Tx, userId: number): Promise<z.infer<typeof rightsRow>> {
  const [row] = await rowsOf(
    tx,
    rightsRow,
    sql`SELECT fulvet_may_write(${userId}, 'send') AS "maySend", fulvet_may_write(${userId}, 'share') AS "mayShare", fulvet_may_write(${userId}, 'bulk') AS "mayBulk"`,
  );
  return row ?? { maySend: false, mayShare: false, mayBulk: false };
}

/**
 * Addresses of the mailboxes that a member may send from: of their own, and of shared addresses that they use where their owner lets those who use
 * them send. Never of someone's mailbox by reading it alone. An alias of a mailbox counts once the member has proven to read what is sent to it.
 */
export async function allSendersOf(db: Db | Tx, userId: number): Promise<Sender[]> {
  const rows = await rowsOf(
    db,
    senderRow,
    sql`
    SELECT m.id AS "mailboxId", a.address, coalesce(nullif(s.name, ''), u.name) AS name, coalesce(s.signature, '') AS signature, a.address <> m.address AS "isAlias",
      a.address = m.address OR s.proven_at IS NOT NULL AS "isProven", CASE WHEN s.proven_at IS NULL THEN s.code_sent_at END AS "codeSentAt"
    FROM mailboxes m JOIN users u ON u.id = ${userId} CROSS JOIN LATERAL (SELECT m.address UNION SELECT unnest(m.aliases)) a(address)
    LEFT JOIN senders s ON s.user_id = u.id AND s.mailbox_id = m.id AND s.address = a.address
    WHERE u.active AND u.role <> 'viewer' AND fulvet_may_write(u.id, 'send') AND m.kind IN ('person', 'shared') AND m.state IN ('running', 'paused') AND m.connection IS NOT NULL
      AND (m.owner_id = u.id OR (m.kind = 'shared' AND m.users_send AND EXISTS (SELECT FROM mailbox_users x WHERE x.mailbox_id = m.id AND x.user_id = u.id)))
    ORDER BY m.kind, m.address = lower(u.email) DESC, m.address, a.address <> m.address, a.address`,
  );
  return rows.map((row) => ({ ...row, signed: filledSignature(row.signature, row) }));
}

/**
 * Addresses that a member may send from now.
 *
 * @param from this one only; `fromAddress` null: that of the mailbox itself
 */
export async function sendersOf(
  db: Db | Tx,
  userId: number,
  from: { mailboxId: number; fromAddress: string | null } | null = null,
): Promise<Sender[]> {
  const proven = (await allSendersOf(db, userId)).filter(({ isProven }) => isProven);
  if (from === null) return proven;
  return proven.filter(
    ({ mailboxId, address, isAlias }) =>
      mailboxId === from.mailboxId && (from.fromAddress === null ? !isAlias : address === from.fromAddress),
  );
}

const provingRow = z.object({ code_hash: z.string().nullable(), sent_seconds: z.number().nullable(), code_tries: z.number() });

/** What is known of the code that was sent to an address. */
export async function provingOf(tx: Tx, mailboxId: number, address: string): Promise<z.infer<typeof provingRow> | null> {
  const [row] = await rowsOf(
    tx,
    provingRow,
    sql`SELECT code_hash, extract(epoch FROM now() - code_sent_at)::float8 AS sent_seconds, code_tries FROM senders WHERE mailbox_id = ${mailboxId} AND address = ${address} FOR UPDATE`,
  );
  return row ?? null;
}
