import { auditLog } from './db/schema';
import { z } from 'zod';
import { rowsOf } from './db/rows';
import type { HistoryPage, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Db, Tx } from './db/database';

/** What is written down. */
export const AUDIT_KINDS = [
  'read',
  'export',
  'share',
  'unshare',
  'ask',
  'decline',
  'seal',
  'unseal',
  'emergency',
  'sign-in',
  'failed sign-in',
  'account',
  'token',
  'mailbox',
  'rules',
  'settings',
  'erase',
  'retention',
] as const;

export type AuditKind = (typeof AUDIT_KINDS)[number];

export interface Deed {
  kind: AuditKind;
  /** In words, of what everyone who sees the entry may know: never what an email says. */
  about: string;
  emailId?: number | null;
  /** The member whom it concerns. */
  subjectId?: number | null;
  /** No one else is to know of it: it goes into the member's own chain. */
  own?: boolean;
}

type Actor = Pick<User, 'id' | 'name'> | null;

/** Writes a deed down, in the transaction of the deed itself. */
export async function writeDown(db: Db | Tx, actor: Actor, deed: Deed): Promise<void> {
  const chain = deed.own && actor ? `user ${actor.id}` : 'workspace';
  // Place, time and hashes are put in by the database.
  await db.insert(auditLog).values({
    chain,
    place: 0,
    at: sql`now()`,
    actorId: actor?.id ?? null,
    actor: actor?.name ?? '',
    kind: deed.kind,
    about: deed.about.slice(0, 2000),
    emailId: deed.emailId ?? null,
    subjectId: deed.subjectId ?? null,
    previous: '',
    hash: '',
  });
}

/** Reading the same email again within this time is not written down again. */
const SAME_READING = '15 minutes';

const emailRow = z.object({ owner: z.number(), name: z.string() });

/** Writes down that someone read what an email of others says; of one's own mail nothing is written. */
export async function writeReading(tx: Tx, reader: User, emailId: number, how: string): Promise<void> {
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`
    SELECT e.owner_ids[1] AS owner, u.name FROM emails e JOIN users u ON u.id = e.owner_ids[1]
    WHERE e.id = ${emailId} AND NOT ${reader.id} = ANY(e.owner_ids) AND EXISTS (SELECT FROM email_contents c WHERE c.email_id = e.id)
      AND NOT EXISTS (SELECT FROM audit_log a WHERE a.kind = 'read' AND a.actor_id = ${reader.id} AND a.email_id = e.id AND a.about LIKE ${`${how}%`} AND a.at > now() - interval '${sql.raw(SAME_READING)}')`,
  );
  const [row] = rows;
  if (row) await writeDown(tx, reader, { kind: 'read', about: `${how} of ${row.name}`, emailId, subjectId: row.owner });
}

const othersRow = z.object({ others: z.boolean() });

/** Writes down that someone read emails of others in a history; which history by its number, since names of people stay out of the log. */
export async function writeHistoryReading(tx: Tx, reader: User, page: Pick<HistoryPage, 'conversations'>, history: string): Promise<void> {
  const shown = page.conversations.flatMap((conversation) =>
    conversation.emails.filter((email) => email.content !== null).map((email) => email.id),
  );
  const about = `read emails of others in the history of ${history}`;
  const rows = await rowsOf(
    tx,
    othersRow,
    sql`
    SELECT EXISTS (SELECT FROM emails e WHERE e.id = ANY(${sql.param(shown)}::bigint[]) AND NOT ${reader.id} = ANY(e.owner_ids))
      AND NOT EXISTS (SELECT FROM audit_log a WHERE a.kind = 'read' AND a.actor_id = ${reader.id} AND a.about = ${about} AND a.at > now() - interval '${sql.raw(SAME_READING)}') AS others`,
  );
  if (rows[0]?.others) await writeDown(tx, reader, { kind: 'read', about });
}
