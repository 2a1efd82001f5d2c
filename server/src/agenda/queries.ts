import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { RecordKind, Task, User } from '@fulvet/contract';
import { repeat, taskEnd } from '@fulvet/contract';
import { cursorParts } from '../base/cursor';
import type { Tx } from '../base/db/database';
import { namesOf } from '../base/db/recordNames';
import { json, moment, rowsOf } from '../base/db/rows';
import { isAround } from '../records/activities/queries';

const taskRow = z.object({
  id: z.number(),
  text: z.string(),
  details: z.string(),
  due_day: z.string().nullable(),
  due_time: z.string().nullable(),
  zone: z.string(),
  due_at: moment.nullable(),
  assignee_id: z.number(),
  assignee: z.string(),
  writer: z.string(),
  writer_id: z.number(),
  is_private: z.boolean(),
  records: json<{ kind: RecordKind; id: number }[]>(),
  email_id: z.number().nullable(),
  subject: z.string().nullable(),
  ends_by: taskEnd.nullable(),
  repeat: repeat.nullable(),
  done_at: moment.nullable(),
  done_by: z.string().nullable(),
  ended_at: moment.nullable(),
  ended_by: z.number().nullable(),
  revision: z.number(),
  created_at: moment,
  cursor: z.string(),
});

/** The email `e` belongs to the conversation that the task `t` came from, or stands under one of its records. */
const isOfTask = sql`(e.conversation_id = (SELECT o.conversation_id FROM emails o WHERE o.id = t.email_id)
  OR t.email_id IS NULL AND EXISTS (SELECT FROM task_records ar JOIN filings f ON f.kind = ar.kind AND f.record_id = ar.record_id WHERE ar.task_id = t.id AND f.email_id = e.id))`;

/** Contact that the task `t` waits for was logged as the activity `act`. */
const isLogged = sql`EXISTS (SELECT FROM activity_records r WHERE r.activity_id = act.id AND (
  EXISTS (SELECT FROM task_records ar WHERE ar.task_id = t.id AND ar.kind = r.kind AND ar.record_id = r.record_id)
  OR EXISTS (SELECT FROM participants p JOIN person_addresses pa ON pa.address = p.address WHERE p.email_id = t.email_id AND p.role <> 'claimed' AND pa.kind = r.kind AND pa.person_id = r.record_id)))`;

/** When it happened (no meeting lasts longer than 30 days): an email when it was sent, a meeting in a calendar when it became known, one that recurs when it takes place. */
const KNOWN_AT = sql`(CASE WHEN e.mail_class = 'event' AND NOT EXISTS (SELECT FROM meetings o WHERE o.email_id = e.id AND o.occurs_at IS NOT NULL) THEN e.arrived_at ELSE e.sent_at END)`;

/**
 * What ended the task `t` by itself, as the acting user may know of it: the first email, or entry, since it was written down that it waits for. Absence notes and
 * notices are none, and what is sealed says nothing.
 */
const ENDING = sql`LATERAL (
  (SELECT ${KNOWN_AT} AS at, e.id FROM emails e WHERE t.ends_by IS NOT NULL AND e.sent_at > t.since - interval '31 days' AND ${KNOWN_AT} > t.since AND ${KNOWN_AT} <= now() AND e.outcome <> 'sealed' AND ${isOfTask} AND CASE t.ends_by
      WHEN 'our answer' THEN e.direction = 'sent' AND e.mail_class = 'person'
      WHEN 'their answer' THEN e.direction = 'received' AND e.mail_class = 'person'
      ELSE EXISTS (SELECT FROM meetings m WHERE m.email_id = e.id AND NOT m.cancelled AND m.ends_at > t.since) END)
  UNION ALL (SELECT act.at, NULL FROM activities act WHERE t.ends_by IS NOT NULL AND act.removed_at IS NULL AND act.at > t.since AND CASE t.ends_by
      WHEN 'our answer' THEN act.direction IN ('sent', 'both') WHEN 'their answer' THEN act.direction IN ('received', 'both') ELSE act.kind = 'meeting' END AND ${isLogged})
  ORDER BY 1 LIMIT 1)`;

export interface TaskQuery {
  state?: 'open' | 'done' | undefined;
  after?: string | undefined;
  limit: number;
}

const LATEST = sql`'9999-12-31'::timestamptz`;
const WHEN_OPEN = sql`coalesce(t.due_at, ${LATEST})`;
const WHEN_DONE = sql`coalesce(t.done_at, x.at)`;

/** Tasks as the acting user may see them; what is open by when it is late, what is done by when it was. @param which a condition on `t` */
export async function tasksWhere(
  tx: Tx,
  user: User,
  which: SQL,
  { state, after, limit }: TaskQuery,
): Promise<{ tasks: Task[]; next: string | null }> {
  const isOpen = state !== 'done';
  const at = isOpen ? WHEN_OPEN : WHEN_DONE;
  const conditions = [which];
  if (state === 'open') conditions.push(sql`t.done_at IS NULL AND x.at IS NULL`);
  if (state === 'done') conditions.push(sql`(t.done_at IS NOT NULL OR x.at IS NOT NULL)`);
  const micros = sql`(extract(epoch FROM ${at}) * 1000000)::bigint`;
  if (after !== undefined) {
    const [time, id] = cursorParts(after);
    conditions.push(sql`(${micros}, t.id) ${isOpen ? sql`>` : sql`<`} (${time}::bigint, ${id}::bigint)`);
  }
  const rows = await rowsOf(
    tx,
    taskRow,
    sql`
    SELECT t.id, t.text, t.details, t.due_day, t.due_time, t.zone, t.due_at, t.assignee_id, a.name AS assignee, w.name AS writer, t.writer_id, t.is_private, t.email_id, c.subject, t.ends_by, t.repeat,
      t.done_at, d.name AS done_by, x.at AS ended_at, x.id AS ended_by, t.revision, t.created_at, ${micros} || '.' || t.id AS cursor,
      coalesce((SELECT json_agg(DISTINCT jsonb_build_object('kind', r.kind, 'id', r.record_id)) FROM task_records r WHERE r.task_id = t.id), '[]'::json) AS records
    FROM tasks t JOIN users a ON a.id = t.assignee_id JOIN users w ON w.id = t.writer_id LEFT JOIN users d ON d.id = t.done_by LEFT JOIN email_contents c ON c.email_id = t.email_id LEFT JOIN ${ENDING} x ON true
    WHERE t.removed_at IS NULL AND ${sql.join(conditions, sql` AND `)} ORDER BY ${at} ${isOpen ? sql`` : sql`DESC`}, t.id ${isOpen ? sql`` : sql`DESC`} LIMIT ${limit}`,
  );
  const names = await namesOf(
    tx,
    rows.flatMap((row) => row.records.map(({ kind, id }) => `${kind}:${id}`)),
  );
  return {
    tasks: rows.map((row) => shownTask(row, user, names)),
    next: rows.length === limit ? (rows.at(-1)?.cursor ?? null) : null,
  };
}

/** Who does it and who wrote it down change it; so do managers and administrators who see it. */
export const mayChange = (user: User, task: { assignee_id: number; writer_id: number }): boolean =>
  user.id === task.assignee_id || user.id === task.writer_id || user.role === 'admin' || user.role === 'manager';

function shownTask(row: z.infer<typeof taskRow>, user: User, names: ReadonlyMap<string, string>): Task {
  const endedAt = row.done_at ?? row.ended_at;
  return {
    id: row.id,
    text: row.text,
    details: row.details,
    due: row.due_day === null ? null : { day: row.due_day, time: row.due_time, zone: row.zone },
    dueAt: row.due_at,
    assignee: { id: row.assignee_id, name: row.assignee },
    writer: row.writer,
    canChange: mayChange(user, row),
    isPrivate: row.is_private,
    records: row.records.flatMap(({ kind, id }) => {
      const name = names.get(`${kind}:${id}`);
      return name === undefined ? [] : [{ kind, id, name }];
    }),
    email: row.email_id !== null && row.subject !== null ? { id: row.email_id, subject: row.subject } : null,
    endsBy: row.ends_by,
    repeat: row.repeat,
    done: endedAt === null ? null : { at: endedAt, by: row.done_by, emailId: row.done_at === null ? row.ended_by : null },
    revision: row.revision,
    createdAt: row.created_at,
  };
}

/** Tasks about a record as a condition on `t`. */
export const ofRecord = (kind: RecordKind, id: number): SQL =>
  sql`t.id IN (SELECT ar.task_id FROM task_records ar WHERE ${isAround(kind, sql`${id}::bigint`)})`;

/** The task is for today or before, by the clock of its zone. */
export const isDueNow = sql`t.day_at <= now()`;
