import type { AuditCheck, AuditEntry, AuditPage, HistoryPage, User } from '@fulvet/contract';
import type { auditQuery } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import type { z } from 'zod';
import type { Db, Tx } from '../db/database';
import { containing } from '../db/like';
import { cursorParts } from '../http/cursor';

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
  /** In words, of what everybody who sees the entry may know: never what an email says. */
  about: string;
  emailId?: number | null;
  /** The member whom it concerns. */
  subjectId?: number | null;
  /** Nobody else is to know of it: it goes into the member's own chain. */
  own?: boolean;
}

type Actor = Pick<User, 'id' | 'name'> | null;

/** Writes a deed down, in the transaction of the deed itself. */
export async function writeDown(db: Db | Tx, actor: Actor, deed: Deed): Promise<void> {
  const chain = deed.own && actor ? `user ${actor.id}` : 'workspace';
  // Place, time and hashes are put in by the database.
  await db.execute(sql`INSERT INTO audit_log (chain, place, at, actor_id, actor, kind, about, email_id, subject_id, previous, hash)
    VALUES (${chain}, 0, now(), ${actor?.id ?? null}, ${actor?.name ?? ''}, ${deed.kind}, ${deed.about.slice(0, 2000)}, ${deed.emailId ?? null}, ${deed.subjectId ?? null}, '', '')`);
}

/** Reading the same email again within this time is not written down again. */
const SAME_READING = '15 minutes';

/** Writes down that somebody read what an email of others says; of one's own mail nothing is written. */
export async function writeReading(tx: Tx, reader: User, emailId: number, how: string): Promise<void> {
  const { rows } = await tx.execute<{ owner: number; name: string }>(sql`
    SELECT e.owner_ids[1] AS owner, u.name FROM emails e JOIN users u ON u.id = e.owner_ids[1]
    WHERE e.id = ${emailId} AND NOT ${reader.id} = ANY(e.owner_ids) AND EXISTS (SELECT FROM email_contents c WHERE c.email_id = e.id)
      AND NOT EXISTS (SELECT FROM audit_log a WHERE a.kind = 'read' AND a.actor_id = ${reader.id} AND a.email_id = e.id AND a.about LIKE ${`${how}%`} AND a.at > now() - interval '${sql.raw(SAME_READING)}')`);
  const [row] = rows;
  if (row) await writeDown(tx, reader, { kind: 'read', about: `${how} of ${row.name}`, emailId, subjectId: row.owner });
}

/** Writes down that somebody read emails of others in a history; which history by its number, since names of people stay out of the log. */
export async function writeHistoryReading(tx: Tx, reader: User, page: HistoryPage, history: string): Promise<void> {
  const shown = page.conversations.flatMap((one) => one.emails.filter((email) => email.content !== null).map((email) => email.id));
  const about = `read emails of others in the history of ${history}`;
  const { rows } = await tx.execute<{ others: boolean }>(sql`
    SELECT EXISTS (SELECT FROM emails e WHERE e.id = ANY(${sql.param(shown)}::bigint[]) AND NOT ${reader.id} = ANY(e.owner_ids))
      AND NOT EXISTS (SELECT FROM audit_log a WHERE a.kind = 'read' AND a.actor_id = ${reader.id} AND a.about = ${about} AND a.at > now() - interval '${sql.raw(SAME_READING)}') AS others`);
  if (rows[0]?.others) await writeDown(tx, reader, { kind: 'read', about });
}

interface Row {
  [column: string]: unknown;
  id: number;
  us: number;
  at: string;
  actor: string;
  kind: string;
  about: string;
  email_id: number | null;
  subject: string | null;
  hash: string;
}

type Query = z.output<typeof auditQuery>;

/** A page of the entries that the reader may see, the latest first. */
export async function auditPageOf(tx: Tx, query: Query): Promise<AuditPage> {
  const rows = await auditRows(tx, query, query.after, query.limit + 1);
  const shown = rows.slice(0, query.limit);
  const last = rows.length > query.limit ? shown.at(-1) : undefined;
  return { entries: shown.map(asEntry), next: last ? `${last.us}.${last.id}` : null, kinds: [...AUDIT_KINDS] };
}

/** All of them, a page at a time. */
export async function* auditPages(tx: Tx, query: Omit<Query, 'after' | 'limit'>): AsyncGenerator<AuditEntry[]> {
  const PAGE = 1000;
  for (let after: string | undefined; ;) {
    const rows = await auditRows(tx, query, after, PAGE);
    if (rows.length > 0) yield rows.map(asEntry);
    const last = rows.at(-1);
    if (!last || rows.length < PAGE) return;
    after = `${last.us}.${last.id}`;
  }
}

async function auditRows(tx: Tx, query: Omit<Query, 'after' | 'limit'>, after: string | undefined, limit: number): Promise<Row[]> {
  const [us, id] = after === undefined || after === '' ? [] : cursorParts(after);
  const conditions: SQL[] = [
    sql`true`,
    ...(query.kind ? [sql`a.kind = ${query.kind}`] : []),
    ...(query.text ? [sql`(a.about ILIKE ${containing(query.text)} OR a.actor ILIKE ${containing(query.text)})`] : []),
    ...(query.member ? [sql`${query.member} IN (a.actor_id, a.subject_id)`] : []),
    ...(query.from ? [sql`a.at >= ${query.from}::date`] : []),
    ...(query.until ? [sql`a.at < ${query.until}::date + 1`] : []),
    ...(us ? [sql`(a.at, a.id) < (to_timestamp(${us}::numeric / 1000000), ${id ?? 0}::bigint)`] : []),
  ];
  const { rows } = await tx.execute<Row>(sql`
    SELECT a.id, (extract(epoch FROM a.at) * 1000000)::int8 AS us, a.at, a.actor, a.kind, a.about, a.email_id, u.name AS subject, a.hash
    FROM audit_log a LEFT JOIN users u ON u.id = a.subject_id WHERE ${sql.join(conditions, sql` AND `)} ORDER BY a.at DESC, a.id DESC LIMIT ${limit}`);
  return rows;
}

function asEntry(row: Row): AuditEntry {
  return {
    at: new Date(row.at).toISOString(),
    actor: row.actor,
    kind: row.kind,
    about: row.about,
    emailId: row.email_id,
    subject: row.subject,
    hash: row.hash,
  };
}

const SEPARATOR = '\u001f';

/**
 * Computes every hash of the log anew, apart from the database that wrote them, and follows each chain from its first entry. What was changed, removed or put
 * in between shows. That entries at the very end of a chain were cut off shows only to those who have noted its head before.
 */
export async function checkAudit(db: Db | Tx): Promise<AuditCheck> {
  const broken: string[] = [];
  const chains = new Map<string, { entries: number; head: string }>();
  const PAGE = 5000;
  for (let [chain, place] = ['', 0]; ;) {
    const { rows } = await db.execute<
      Record<'chain' | 'place' | 'at' | 'actor_id' | 'actor' | 'kind' | 'about' | 'email_id' | 'subject_id' | 'previous' | 'hash', string>
    >(sql`
      SELECT chain, place::text AS place, to_char(at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"') AS at, coalesce(actor_id::text, '') AS actor_id, actor, kind, about, coalesce(email_id::text, '') AS email_id, coalesce(subject_id::text, '') AS subject_id, previous, hash
      FROM audit_log WHERE (chain COLLATE "C", audit_log.place) > (${chain}, ${place}) ORDER BY chain COLLATE "C", audit_log.place LIMIT ${PAGE}`);
    for (const row of rows) {
      const before = chains.get(row.chain) ?? { entries: 0, head: '' };
      const where = `entry ${row.place} of the chain “${row.chain}”`;
      if (Number(row.place) !== before.entries + 1) broken.push(`Before ${where}, entries are missing.`);
      if (row.previous !== before.head) broken.push(`${where[0]?.toUpperCase() ?? ''}${where.slice(1)} does not follow the one before it.`);
      const parts = [
        row.previous,
        row.chain,
        row.place,
        row.at,
        row.actor_id,
        row.actor,
        row.kind,
        row.about,
        row.email_id,
        row.subject_id,
      ];
      if (createHash('sha256').update(parts.join(SEPARATOR), 'utf8').digest('hex') !== row.hash)
        broken.push(`What ${where} says was changed.`);
      chains.set(row.chain, { entries: Number(row.place), head: row.hash });
    }
    const last = rows.at(-1);
    if (!last || rows.length < PAGE) break;
    [chain, place] = [last.chain, Number(last.place)];
  }
  const listed = [...chains].map(([chain, { entries, head }]) => ({ chain, entries, head }));
  return {
    intact: broken.length === 0,
    entries: listed.reduce((sum, one) => sum + one.entries, 0),
    chains: listed,
    broken: broken.slice(0, 100),
  };
}
