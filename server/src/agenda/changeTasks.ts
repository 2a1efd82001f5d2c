import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { dayAt, nextDay } from '@fulvet/core';
import type { Repeat } from '@fulvet/core';
import { repeat } from '@fulvet/contract';
import type { Task, taskChange, User } from '@fulvet/contract';
import type { Tx } from '../base/db/database';
import { announce } from '../base/live/changes';
import { idRow, rowsOf } from '../base/db/rows';
import { isRefusal, Refusal } from '../base/refusal';
import type { Services } from '../base/services';
import type { Undoer } from '../base/undoLog';
import { noteStep } from '../base/undoLog';
import { demandMember, dueRow, TASKS } from './keep';
import { mayChange, tasksWhere } from './queries';

type Parts = Pick<Services, 'database'>;
type Change = z.output<typeof taskChange>;

/** What a change touches, as it stood. */
const stateRow = z.object({
  id: z.number(),
  revision: z.number(),
  text: z.string(),
  due_day: z.string().nullable(),
  due_time: z.string().nullable(),
  zone: z.string(),
  first_day: z.string().nullable(),
  repeat: repeat.nullable(),
  assignee_id: z.number(),
  writer_id: z.number(),
  ends_by: z.string().nullable(),
  done_at: z.string().nullable(),
  done_by: z.number().nullable(),
  removed_at: z.string().nullable(),
});
type State = z.output<typeof stateRow>;

const STATES = sql`SELECT t.id, t.revision, t.text, t.due_day, t.due_time, t.zone, t.first_day, t.repeat, t.assignee_id, t.writer_id, t.ends_by, t.done_at::text AS done_at, t.done_by, t.removed_at::text AS removed_at FROM tasks t`;

interface Changed {
  changed: number;
  kept: { id: number; name: string; because: string }[];
  undo: number | null;
  next: Task[];
}

/** The same change of many tasks: what cannot be changed stays, and says why. One step of the undo log. */
export async function changeTasks(
  { database }: Parts,
  user: User,
  { ids, change }: { ids: readonly number[]; change: Change },
): Promise<Changed | Refusal> {
  const found = await database.as(user.id, async (tx) => {
    const refused = change.assigneeId === undefined ? null : await demandMember(tx, change.assigneeId);
    return refused ?? rowsOf(tx, stateRow, sql`${STATES} WHERE t.id = ANY(${sql.param([...ids])}::bigint[]) ORDER BY t.id`);
  });
  if (isRefusal(found)) return found;
  const kept = found
    .filter((task) => !mayChange(user, task))
    .map(({ id, text }) => ({ id, name: text, because: 'it is someone else’s to change' }));
  const own = found.filter((task) => mayChange(user, task));
  const done = await database.work(async (tx) => {
    const now = new Date();
    const before = await rowsOf(
      tx,
      stateRow,
      sql`${STATES} WHERE t.id = ANY(${sql.param(own.map(({ id }) => id))}::bigint[]) ORDER BY t.id FOR UPDATE`,
    );
    const after = before
      .map((task) => ({ before: task, after: changedTask(task, change, user, now) }))
      .filter((it) => JSON.stringify(it.before) !== JSON.stringify(it.after));
    if (after.length === 0) return { undo: null, made: [], changed: 0 };
    await store(
      tx,
      after.map((it) => it.after),
    );
    const made: number[] = [];
    for (const { before: was, after: is } of after)
      if (was.repeat !== null && was.done_at === null && is.done_at !== null && is.removed_at === null)
        made.push(await comeBack(tx, was, was.repeat, now));
    const undo = await noteStep(tx, user.id, undoTasks, {
      summary: summaryOf(
        after.map((it) => it.before),
        change,
      ),
      payload: { before: after.map((it) => ({ ...it.before, revision: it.before.revision + 1 })), made },
    });
    await tellThem(tx, [user.id, ...after.flatMap((it) => [it.before.assignee_id, it.after.assignee_id])]);
    return { undo, made, changed: after.length };
  });
  const { made, ...told } = done;
  if (made.length === 0) return { ...told, kept, next: [] };
  const { tasks: next } = await database.as(user.id, (tx) =>
    tasksWhere(tx, user, sql`t.id = ANY(${sql.param(made)}::bigint[])`, { limit: made.length }),
  );
  return { ...told, kept, next };
}

function changedTask(task: State, { done, day, zone, assigneeId, removed }: Change, user: User, now: Date): State {
  const after = { ...task };
  if (done === true && task.done_at === null) Object.assign(after, { done_at: now.toISOString(), done_by: user.id });
  // Open again, it waits for nothing that has happened already.
  if (done === false) Object.assign(after, { done_at: null, done_by: null, ends_by: null });
  if (day !== undefined && day !== task.due_day)
    Object.assign(after, {
      due_day: day,
      due_time: day === null ? null : task.due_time,
      zone: task.due_day === null ? (zone ?? task.zone) : task.zone,
      repeat: day === null ? null : task.repeat,
    });
  if (assigneeId !== undefined) after.assignee_id = assigneeId;
  if (removed !== undefined && removed !== (task.removed_at !== null)) after.removed_at = removed ? now.toISOString() : null;
  return after;
}

async function store(tx: Tx, tasks: readonly State[]): Promise<void> {
  const rows = tasks.map((task) => {
    const { dayAt: day_at, dueAt: due_at } = dueRow(
      task.due_day === null ? null : { day: task.due_day, time: task.due_time, zone: task.zone },
    );
    return { ...task, day_at, due_at };
  });
  await tx.execute(
    sql`UPDATE tasks t SET due_day = n.due_day, due_time = n.due_time, zone = n.zone, day_at = n.day_at, due_at = n.due_at, repeat = n.repeat, assignee_id = n.assignee_id, ends_by = n.ends_by, done_at = n.done_at, done_by = n.done_by, removed_at = n.removed_at, revision = t.revision + 1
      FROM jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) n(id bigint, due_day text, due_time text, zone text, day_at timestamptz, due_at timestamptz, repeat jsonb, assignee_id bigint, ends_by text, done_at timestamptz, done_by bigint, removed_at timestamptz) WHERE t.id = n.id`,
  );
}

/** The task once more, on the next day of its row. */
async function comeBack(tx: Tx, task: State, how: Repeat, now: Date): Promise<number> {
  const { due_day: due, first_day: first, zone } = task;
  const row = dueRow({ day: nextDay(first ?? due ?? '', due ?? '', dayAt(now.getTime(), zone), how), time: task.due_time, zone });
  const [made] = await rowsOf(
    tx,
    idRow,
    sql`WITH made AS (INSERT INTO tasks (text, details, due_day, due_time, zone, day_at, due_at, first_day, repeat, assignee_id, writer_id, is_private, email_id)
        SELECT t.text, t.details, ${row.day}, t.due_time, t.zone, ${row.dayAt}::timestamptz, ${row.dueAt}::timestamptz, t.first_day, t.repeat, t.assignee_id, t.writer_id, t.is_private, t.email_id FROM tasks t WHERE t.id = ${task.id} RETURNING id),
      linked AS (INSERT INTO task_records (task_id, kind, record_id) SELECT made.id, r.kind, r.record_id FROM made, task_records r WHERE r.task_id = ${task.id})
      SELECT id FROM made`,
  );
  return made?.id ?? 0;
}

const tellThem = (tx: Tx, to: readonly number[]): Promise<void> => announce(tx, { kind: 'progress', of: TASKS, to: [...new Set(to)] });

function summaryOf(tasks: readonly State[], change: Change): string {
  const what = [
    change.done === true && 'Done',
    change.done === false && 'Opened again',
    change.day !== undefined && (change.day === null ? 'Without a day now' : `Moved to ${change.day}`),
    change.assigneeId !== undefined && 'Handed over',
    change.removed === true && 'Removed',
    change.removed === false && 'Put back',
  ].filter((part) => part !== false);
  const of = tasks.length === 1 ? `“${(tasks[0]?.text ?? '').slice(0, 80)}”` : `${tasks.length} tasks`;
  return `${what.join(', ')}: ${of}`;
}

const payload = z.object({ before: z.array(stateRow), made: z.array(z.number()) });

/** Tasks are as before; those that were changed again since stay, and one that came back goes again unless something was done with it. */
export const undoTasks: Undoer<z.output<typeof payload>> = {
  kind: 'tasks',
  payload,
  undo: ({ database }, doer, { before, made }) =>
    database.work(async (tx) => {
      const now = await rowsOf(
        tx,
        stateRow,
        sql`${STATES} WHERE t.id = ANY(${sql.param(before.map(({ id }) => id))}::bigint[]) ORDER BY t.id FOR UPDATE`,
      );
      const same = before.filter((was) => now.some((is) => is.id === was.id && is.revision === was.revision));
      if (same.length === 0)
        return new Refusal('conflict', 'changed-since', 'These tasks were changed since. Nothing was undone; change them by hand.');
      const active = new Set((await rowsOf(tx, idRow, sql`SELECT id FROM users WHERE active`)).map(({ id }) => id));
      const back = same.filter((was) => active.has(was.assignee_id));
      await store(tx, back);
      await tx.execute(sql`DELETE FROM tasks WHERE id = ANY(${sql.param(made)}::bigint[]) AND revision = 0 AND done_at IS NULL`);
      await tellThem(tx, [doer.id, ...[...now, ...back].map((task) => task.assignee_id)]);
      const kept = before
        .filter((was) => !back.includes(was))
        .map(({ id, text }) => ({
          kind: 'task' as const,
          id,
          name: text,
          because: same.some((it) => it.id === id) ? 'who did it before has left the team' : 'it was changed again since',
        }));
      return { changed: back.length, kept };
    }),
};
