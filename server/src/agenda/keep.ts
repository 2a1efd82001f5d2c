import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Due } from '@fulvet/core';
import { dueMoment } from '@fulvet/core';
import type { Task, taskContent, User } from '@fulvet/contract';
import type { Tx } from '../base/db/database';
import { idRow, json, rowsOf } from '../base/db/rows';
import { isRefusal, notFound, Refusal } from '../base/refusal';
import type { Services } from '../base/services';
import { announce } from '../base/live/changes';
import { demandSeen } from '../records/seenRecords';
import { tasksWhere } from './queries';

type Parts = Pick<Services, 'database'>;
export type Content = z.output<typeof taskContent>;
type Key = NonNullable<Content['records']>[number];

/** What pages are told when someone's tasks changed. */
export const TASKS = 'tasks';

const emailRow = z.object({ subject: z.string(), sent_at: z.string(), records: json<Key[]>() });

/** What a task says for itself where its writer left it out: the subject and the records of its email. */
async function completed(tx: Tx, content: Content): Promise<(Content & { records: Key[]; since: string | null }) | Refusal> {
  const records = content.records ?? [];
  const refused = await demandSeen(tx, records);
  if (refused) return refused;
  if (content.emailId === null) return { ...content, records, since: null };
  const [email] = await rowsOf(
    tx,
    emailRow,
    sql`SELECT c.subject, e.sent_at::text AS sent_at, coalesce((SELECT json_agg(json_build_object('kind', f.kind, 'id', f.record_id)) FROM filings f JOIN records r ON r.kind = f.kind AND r.id = f.record_id WHERE f.email_id = e.id), '[]'::json) AS records
      FROM emails e JOIN email_contents c ON c.email_id = e.id WHERE e.id = ${content.emailId}`,
  );
  if (!email) return notFound('email');
  return {
    ...content,
    text: content.text || email.subject || '(no subject)',
    records: (content.records ?? email.records).slice(0, 20),
    since: email.sent_at,
  };
}

/** Who is to do it is a member who does such things. */
export async function demandMember(tx: Tx, id: number): Promise<Refusal | null> {
  const [found] = await rowsOf(tx, idRow, sql`SELECT id FROM users WHERE id = ${id} AND active AND role <> 'viewer'`);
  if (found) return null;
  return new Refusal('unfit', 'no-such-member', 'This member has left, or only reads. Choose someone else.', {
    assigneeId: 'cannot do it',
  });
}

export async function createTask({ database }: Parts, user: User, content: Content): Promise<Task | Refusal> {
  const assignee = content.assigneeId ?? user.id;
  const whole = await database.as(user.id, async (tx) => (await demandMember(tx, assignee)) ?? (await completed(tx, content)));
  if (isRefusal(whole)) return whole;
  const id = await database.work(async (tx) => {
    const [made] = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO tasks (text, details, due_day, due_time, zone, day_at, due_at, first_day, repeat, assignee_id, writer_id, is_private, email_id, ends_by, since)
        VALUES (${whole.text}, ${whole.details}, ${dueColumns(whole.due)}, ${whole.due?.day ?? null}, ${jsonOf(whole.repeat)}, ${assignee}, ${user.id}, ${whole.isPrivate}, ${whole.emailId}, ${whole.endsBy}, coalesce(${whole.since}::timestamptz, now())) RETURNING id`,
    );
    await addRecords(tx, made?.id ?? 0, whole.records);
    await announce(tx, { kind: 'progress', of: TASKS, to: [user.id, assignee] });
    return made?.id ?? 0;
  });
  return taskOf({ database }, user, id);
}

export async function saveTask(
  { database }: Parts,
  user: User,
  id: number,
  { revision, content }: { revision: number; content: Content },
): Promise<Task | Refusal> {
  const before = await taskOf({ database }, user, id);
  if (isRefusal(before)) return before;
  if (!before.canChange)
    return new Refusal(
      'forbidden',
      'not-yours',
      `Who does it, ${before.assignee.name}, who wrote it down, ${before.writer}, or a manager changes it.`,
    );
  const assignee = content.assigneeId ?? before.assignee.id;
  const whole = await database.as(
    user.id,
    async (tx) => (assignee === before.assignee.id ? null : await demandMember(tx, assignee)) ?? (await completed(tx, content)),
  );
  if (isRefusal(whole)) return whole;
  const saved = await database.work(async (tx) => {
    const row = dueRow(whole.due);
    const changed = await rowsOf(
      tx,
      idRow,
      sql`UPDATE tasks SET text = ${whole.text}, details = ${whole.details}, due_day = ${row.day}, due_time = ${row.time}, zone = ${row.zone}, day_at = ${row.dayAt}::timestamptz, due_at = ${row.dueAt}::timestamptz,
          first_day = CASE WHEN due_day IS NOT DISTINCT FROM ${row.day} AND repeat IS NOT DISTINCT FROM ${jsonOf(whole.repeat)} THEN first_day ELSE ${row.day} END, repeat = ${jsonOf(whole.repeat)},
          assignee_id = ${assignee}, is_private = ${whole.isPrivate}, email_id = ${whole.emailId}, ends_by = ${whole.endsBy}, since = CASE WHEN email_id IS NOT DISTINCT FROM ${whole.emailId}::bigint THEN since ELSE coalesce(${whole.since}::timestamptz, now()) END, revision = revision + 1
        WHERE id = ${id} AND revision = ${revision} AND removed_at IS NULL RETURNING id`,
    );
    if (changed.length === 0)
      return new Refusal('conflict', 'changed-meanwhile', 'This task was changed meanwhile. Nothing was saved: load the page again.');
    // Records that its writer sees and took off; those out of their reach stay.
    await tx.execute(
      sql`DELETE FROM task_records r USING jsonb_to_recordset(${JSON.stringify(before.records)}::jsonb) b(kind text, id bigint) WHERE r.task_id = ${id} AND r.kind = b.kind AND r.record_id = b.id`,
    );
    await addRecords(tx, id, whole.records);
    await announce(tx, { kind: 'progress', of: TASKS, to: [...new Set([user.id, assignee, before.assignee.id])] });
    return null;
  });
  return saved ?? taskOf({ database }, user, id);
}

const jsonOf = (value: unknown) => sql`${value === null ? null : JSON.stringify(value)}::jsonb`;

/** A due day as the table keeps it. */
export const dueRow = (due: Due | null) =>
  due === null
    ? { day: null, time: null, zone: 'UTC', dayAt: null, dueAt: null }
    : { ...due, dayAt: new Date(dueMoment({ ...due, time: '00:00' })).toISOString(), dueAt: new Date(dueMoment(due)).toISOString() };

const dueColumns = (due: Due | null) => {
  const { day, time, zone, dayAt, dueAt } = dueRow(due);
  return sql`${day}, ${time}, ${zone}, ${dayAt}::timestamptz, ${dueAt}::timestamptz`;
};

export async function addRecords(tx: Tx, id: number, records: readonly Key[]): Promise<void> {
  await tx.execute(
    sql`INSERT INTO task_records (task_id, kind, record_id) SELECT DISTINCT ${id}::bigint, r.kind, r.id FROM jsonb_to_recordset(${JSON.stringify(records)}::jsonb) r(kind text, id bigint)`,
  );
}

function taskOf({ database }: Parts, user: User, id: number): Promise<Task | Refusal> {
  return database.as(user.id, async (tx) => (await tasksWhere(tx, user, sql`t.id = ${id}`, { limit: 1 })).tasks[0] ?? notFound('task'));
}
