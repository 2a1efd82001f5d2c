import { calendarAccounts, calendars, emails, mailboxChecks, mailboxes } from '../base/db/schema';
import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import type { TeamAddress } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { domainOf } from '@fulvet/core';
import { and, eq, sql } from 'drizzle-orm';
import type { Db, Tx } from '../base/db/database';
import { personKeyInSql } from '../base/db/personKey';

const eventRow = z.object({
  id: z.number(),
  at: moment,
  level: z.enum(['note', 'problem', 'solved']),
  message: z.string(),
  said: z.string(),
});
/** A line of a mailbox's own log. */
export type MailboxEvent = z.infer<typeof eventRow>;

/** The newest lines of a mailbox's log, or those before a line. */
export const eventsBefore = (tx: Tx, mailboxId: number, before: number | null, limit: number): Promise<MailboxEvent[]> =>
  rowsOf(
    tx,
    eventRow,
    sql`SELECT id, at, level, message, said FROM mailbox_events WHERE mailbox_id = ${mailboxId} AND (${before}::bigint IS NULL OR id < ${before}) ORDER BY id DESC LIMIT ${limit}`,
  );

/** The lines of a mailbox's log after a line, in order. */
export const eventsAfter = (tx: Tx, mailboxId: number, after: number, limit: number): Promise<MailboxEvent[]> =>
  rowsOf(
    tx,
    eventRow,
    sql`SELECT id, at, level, message, said FROM mailbox_events WHERE mailbox_id = ${mailboxId} AND id > ${after} ORDER BY id LIMIT ${limit}`,
  );

export async function pause(db: Db, id: number): Promise<void> {
  await db.execute(sql`UPDATE mailboxes SET state = 'paused' WHERE id = ${id} AND state IN ('running', 'stopped')`);
}

/** Has a mailbox with a problem tried again now. */
export async function tryAgain(db: Db, id: number): Promise<void> {
  await db.execute(
    sql`UPDATE mailboxes SET state = 'running', problem = jsonb_set(problem, '{retryAt}', '0') WHERE id = ${id} AND state IN ('running', 'stopped') AND problem IS NOT NULL`,
  );
}

/** Whether any email ever came from a mailbox. */
export async function hasHistory(db: Db, id: number): Promise<boolean> {
  const { rowCount } = await db.execute(
    sql`SELECT FROM mailboxes m WHERE m.id = ${id} AND (EXISTS (SELECT FROM sightings s WHERE s.mailbox_id = m.id) OR EXISTS (SELECT FROM imports i WHERE i.mailbox_id = m.id))`,
  );
  return (rowCount ?? 0) > 0;
}

export async function close(db: Db, id: number): Promise<void> {
  await db.update(mailboxes).set({ state: 'closed', problem: null, backlog: 0 }).where(eq(mailboxes.id, id));
  await db.delete(mailboxChecks).where(eq(mailboxChecks.mailboxId, id));
  await leaveCalendars(db, id);
}

/** No calendar of this mailbox is read any longer, and nothing of how to sign in there is kept; what came in stays. */
export async function leaveCalendars(db: Db | Tx, id: number): Promise<void> {
  await db.delete(calendarAccounts).where(eq(calendarAccounts.mailboxId, id));
  await db.delete(calendars).where(eq(calendars.mailboxId, id));
}

export async function remove(db: Db, id: number): Promise<void> {
  await db.delete(mailboxes).where(eq(mailboxes.id, id));
}

export async function giveTo(tx: Tx, id: number, ownerId: number): Promise<void> {
  await tx.execute(sql`UPDATE mailboxes SET owner_id = ${ownerId}, revision = revision + 1 WHERE id = ${id}`);
  // Calendars are a person's own, whoever looks after the mail.
  await leaveCalendars(tx, id);
}

const teamAddressRow = z.object({
  address: z.string(),
  mailbox: z.string(),
  owner: z.string(),
  isOurs: z.boolean(),
  emails: z.number(),
  records: z.number(),
});

/** Addresses of mailboxes that no own domain covers, with what depends on them. */
export async function addressesOutside(tx: Tx, rulebook: CompiledRulebook): Promise<TeamAddress[]> {
  const rows = await rowsOf(
    tx,
    teamAddressRow,
    sql`
    SELECT a.address, m.address AS mailbox, u.name AS owner, EXISTS (SELECT FROM team_addresses t WHERE t.address = a.address) AS "isOurs",
      (SELECT count(DISTINCT p.email_id)::int FROM participants p WHERE ${personKeyInSql(rulebook, sql`p.address`)} = a.address) AS emails,
      (SELECT count(*)::int FROM person_addresses x WHERE x.address = a.address) AS records
    FROM mailboxes m JOIN users u ON u.id = m.owner_id, LATERAL (SELECT m.address UNION SELECT unnest(m.aliases)) AS a(address)
    WHERE NOT EXISTS (SELECT FROM users o WHERE lower(o.email) = a.address) ORDER BY 1, 2`,
  );
  return rows.filter((row) => !rulebook.isOurs('', domainOf(row.address)));
}

export async function confirmAddress(tx: Tx, address: string, byId: number): Promise<void> {
  await tx.execute(sql`INSERT INTO team_addresses (address, confirmed_by) VALUES (${address}, ${byId}) ON CONFLICT DO NOTHING`);
}

export async function takeBackAddress(tx: Tx, address: string): Promise<void> {
  await tx.execute(sql`DELETE FROM team_addresses WHERE address = ${address}`);
}

/** Has all internal mail decided again: it names no one any more, so what is to be looked at cannot be told apart. */
export async function forgetInternal(tx: Tx): Promise<void> {
  await tx
    .update(emails)
    .set({ decidedAt: null })
    .where(and(eq(emails.outcome, 'kept out'), eq(emails.direction, 'internal')));
}
