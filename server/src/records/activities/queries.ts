import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { Activity, RecordKind } from '@fulvet/contract';
import { activityDirection, activityKind } from '@fulvet/contract';
import type { Tx } from '../../base/db/database';
import { namesOf } from '../../base/db/recordNames';
import { json, moment, rowsOf } from '../../base/db/rows';

const activityRow = z.object({
  id: z.number(),
  kind: activityKind,
  at: moment,
  direction: activityDirection.nullable(),
  text: z.string(),
  is_private: z.boolean(),
  writer: z.string(),
  is_mine: z.boolean(),
  created_at: moment,
  revision: z.number(),
  records: json<{ kind: RecordKind; id: number }[]>(),
  changes: json<Activity['changes']>(),
});

/** Activities as the acting user may see them. @param which a condition on `a` */
export async function activitiesWhere(tx: Tx, userId: number, which: SQL, limit: number): Promise<Activity[]> {
  const rows = await rowsOf(
    tx,
    activityRow,
    sql`SELECT a.id, a.kind, a.at, a.direction, a.text, a.is_private, u.name AS writer, a.writer_id = ${userId} AS is_mine, a.created_at, a.revision,
        coalesce((SELECT json_agg(DISTINCT jsonb_build_object('kind', r.kind, 'id', r.record_id)) FROM activity_records r WHERE r.activity_id = a.id), '[]'::json) AS records,
        coalesce((SELECT json_agg(json_build_object('at', c.at, 'before', c.before) ORDER BY c.id DESC) FROM activity_changes c WHERE c.activity_id = a.id), '[]'::json) AS changes
      FROM activities a JOIN users u ON u.id = a.writer_id WHERE a.removed_at IS NULL AND ${which} ORDER BY a.at DESC, a.id DESC LIMIT ${limit}`,
  );
  const names = await namesOf(
    tx,
    rows.flatMap((row) => row.records.map(({ kind, id }) => `${kind}:${id}`)),
  );
  return rows.map(({ is_private, is_mine, created_at, records, changes, ...row }) => ({
    ...row,
    isPrivate: is_private,
    isMine: is_mine,
    writtenAt: created_at,
    changes: changes.map(({ at, before }) => ({ at: new Date(at).toISOString(), before })),
    records: records.flatMap(({ kind, id }) => {
      const name = names.get(`${kind}:${id}`);
      return name === undefined ? [] : [{ kind, id, name }];
    }),
  }));
}

/** Which rows `ar` of records are those of a record; an account's with those of its contacts and deals. @param id of the record */
export function isAround(kind: RecordKind, id: SQL): SQL {
  const own = sql`(ar.kind = ${kind} AND ar.record_id = ${id})`;
  return kind === 'account'
    ? sql`(${own} OR (ar.kind = 'contact' AND ar.record_id IN (SELECT c.id FROM contacts c WHERE c.account_id = ${id})) OR (ar.kind = 'deal' AND ar.record_id IN (SELECT d.id FROM deals d WHERE d.account_id = ${id})))`
    : own;
}

/** Activities of a record as a condition on `a`. */
export const ofRecord = (kind: RecordKind, id: number): SQL =>
  sql`a.id IN (SELECT ar.activity_id FROM activity_records ar WHERE ${isAround(kind, sql`${id}::bigint`)})`;

/** Whether contact with someone who takes part in an email in one of these roles was written down after it, of one of these directions. */
const loggedSince = (email: SQL, roles: SQL, directions: SQL): SQL =>
  sql`EXISTS (SELECT FROM participants p JOIN person_addresses pa ON pa.address = p.address JOIN activity_records ar ON ar.kind = pa.kind AND ar.record_id = pa.person_id JOIN activities act ON act.id = ar.activity_id
    WHERE p.email_id = ${email}.id AND p.role IN (${roles}) AND act.removed_at IS NULL AND act.direction IN (${directions}) AND act.at > ${email}.sent_at)`;

/** Whether we reached the person who sent an email after it: it waits for no answer then. */
export const answeredByHand = (email: SQL): SQL => loggedSince(email, sql`'from'`, sql`'sent', 'both'`);

/** Whether someone to whom an email was sent reached us after it. */
export const reachedUsSince = (email: SQL): SQL => loggedSince(email, sql`'to', 'cc', 'bcc'`, sql`'received', 'both'`);

/** When contact with a record was logged last, as an expression. @param id of the record */
export const lastLoggedOf = (kind: RecordKind, id: SQL): SQL =>
  sql`(SELECT max(act.at) FROM activity_records ar JOIN activities act ON act.id = ar.activity_id WHERE ${isAround(kind, id)} AND act.removed_at IS NULL AND act.direction IS NOT NULL)`;

const lastRow = z.object({ id: z.number(), at: moment.nullable() });

/** The same of several records, by id. */
export async function lastLogged(tx: Tx, kind: RecordKind, ids: readonly number[]): Promise<Map<number, string | null>> {
  const rows = await rowsOf(
    tx,
    lastRow,
    sql`SELECT n.id, ${lastLoggedOf(kind, sql`n.id`)} AS at FROM unnest(${sql.param([...ids])}::bigint[]) n(id)`,
  );
  return new Map(rows.map(({ id, at }) => [id, at]));
}

const lastContactRow = z.object({ at: moment, kind: activityKind, writer: z.string() });

/** The last contact of a record that was logged, as the acting user may know of it. */
export async function lastContactLogged(tx: Tx, kind: RecordKind, id: number): Promise<z.infer<typeof lastContactRow> | null> {
  const [row] = await rowsOf(
    tx,
    lastContactRow,
    sql`SELECT a.at, a.kind, u.name AS writer FROM activities a JOIN users u ON u.id = a.writer_id WHERE a.removed_at IS NULL AND a.direction IS NOT NULL AND ${ofRecord(kind, id)} ORDER BY a.at DESC, a.id DESC LIMIT 1`,
  );
  return row ?? null;
}
