import { moment, rowsOf } from '../base/db/rows';
import type { AuditEntry, AuditPage, auditQuery } from '@fulvet/contract';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { AUDIT_KINDS } from '../base/audit';
import { cursorParts } from '../base/cursor';
import type { Database, Tx } from '../base/db/database';
import { containing } from '../base/db/like';

const entryRow = z.object({
  id: z.number(),
  us: z.number(),
  at: moment,
  actor: z.string(),
  kind: z.string(),
  about: z.string(),
  email_id: z.number().nullable(),
  subject: z.string().nullable(),
  hash: z.string(),
});
type Row = z.infer<typeof entryRow>;

type Query = z.output<typeof auditQuery>;

/** A page of the entries that the reader may see, the latest first. */
export async function auditPageOf(tx: Tx, query: Query): Promise<AuditPage> {
  const rows = await auditRows(tx, query, query.after, query.limit + 1);
  const shown = rows.slice(0, query.limit);
  const last = rows.length > query.limit ? shown.at(-1) : undefined;
  return { entries: shown.map(asEntry), next: last ? `${last.us}.${last.id}` : null, kinds: [...AUDIT_KINDS] };
}

/** All entries that the reader may see, a page at a time, each in a transaction of its own. */
export async function* auditPages(
  database: Database,
  readerId: number,
  query: Omit<Query, 'after' | 'limit'>,
): AsyncGenerator<AuditEntry[]> {
  const PAGE = 1000;
  for (let after: string | undefined; ;) {
    const rows = await database.as(readerId, (tx) => auditRows(tx, query, after, PAGE));
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
  const rows = await rowsOf(
    tx,
    entryRow,
    sql`
    SELECT a.id, (extract(epoch FROM a.at) * 1000000)::int8 AS us, a.at, a.actor, a.kind, a.about, a.email_id, u.name AS subject, a.hash
    FROM audit_log a LEFT JOIN users u ON u.id = a.subject_id WHERE ${sql.join(conditions, sql` AND `)} ORDER BY a.at DESC, a.id DESC LIMIT ${limit}`,
  );
  return rows;
}

function asEntry(row: Row): AuditEntry {
  return {
    at: row.at,
    actor: row.actor,
    kind: row.kind,
    about: row.about,
    emailId: row.email_id,
    subject: row.subject,
    hash: row.hash,
  };
}
