import { createTask, dueRow } from './keep';
import { changeTasks } from './changeTasks';
import { tasksWhere } from './queries';
import type { Task, User } from '@fulvet/contract';
import { detailsForList, dueFromList, isSameState, listedDue, textForList } from '@fulvet/core';
import type { ListState } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { isRefusal } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { Services } from '../base/services';

type Parts = Pick<Services, 'database'>;

/** So many tasks of a member are kept in a list. */
const MOST = 1_000;

/** A task as a list of to-dos may show it. */
export interface ListedTask {
  id: number;
  revision: number;
  state: ListState;
}

const listed = ({ id, revision, text, details, due, done }: Task): ListedTask => ({
  id,
  revision,
  state: { text: textForList(text), details: detailsForList(details), due: listedDue(due), done: done !== null },
});

/** What a member is to do: all that is open, the next due first, and of these tasks those that are done. */
export async function tasksForList({ database }: Parts, member: User, ids: readonly number[]): Promise<ListedTask[]> {
  return database.as(member.id, async (tx) => {
    const mine = sql`t.assignee_id = ${member.id}`;
    const open = await tasksWhere(tx, member, mine, { state: 'open', limit: MOST });
    const known = new Set(open.tasks.map(({ id }) => id));
    const others = ids.filter((id) => !known.has(id));
    const done = await tasksWhere(tx, member, sql`${mine} AND t.id = ANY(${sql.param(others)}::bigint[])`, {
      limit: Math.max(1, others.length),
    });
    return [...open.tasks, ...done.tasks].map(listed);
  });
}

/** A task comes of a to-do that its owner wrote elsewhere: for no one else to see. @returns its id; null where it cannot be one */
export async function taskFromList(services: Parts, member: User, state: ListState): Promise<number | null> {
  const made = await createTask(services, member, {
    text: state.text || '(no text)',
    details: state.details,
    due: dueFromList(state.due, await zoneOf(services, member)),
    assigneeId: member.id,
    isPrivate: true,
    records: [],
    emailId: null,
    endsBy: null,
    repeat: null,
  });
  return isRefusal(made) ? null : made.id;
}

const zoneRow = z.object({ zone: z.string() });

/** The zone of a member's clock, as far as it is known: that of their last task with a time, or of their meetings. */
async function zoneOf({ database }: Parts, { id }: User): Promise<string> {
  const rows = await rowsOf(
    database.worker,
    zoneRow,
    sql`SELECT zone FROM ((SELECT t.zone, 1 AS place FROM tasks t WHERE t.assignee_id = ${id} AND t.due_day IS NOT NULL ORDER BY t.id DESC LIMIT 1)
      UNION ALL (SELECT k.times ->> 'zone', 2 FROM meeting_kinds k WHERE k.owner_id = ${id} ORDER BY k.id DESC LIMIT 1)) z WHERE zone IS NOT NULL ORDER BY place LIMIT 1`,
  );
  return rows[0]?.zone ?? 'UTC';
}

/** Another day, with which the row of days begins on which the task comes back; without a day it does not. */
const dueColumns = ({ day, time, zone, dayAt, dueAt }: ReturnType<typeof dueRow>): SQL =>
  sql`due_day = ${day}, due_time = ${time}, zone = ${zone}, day_at = ${dayAt}::timestamptz, due_at = ${dueAt}::timestamptz, first_day = ${day}, repeat = CASE WHEN ${day}::text IS NOT NULL THEN repeat END`;

/** A task says what was changed in a list. What was changed here meanwhile stays, and is merged the next time. */
export async function changeFromList(services: Parts, member: User, task: ListedTask, wanted: ListState): Promise<Refusal | null> {
  if (isSameState(task.state, wanted)) return null;
  const changes = [
    ...(task.state.text === wanted.text ? [] : [sql`text = ${wanted.text}`]),
    ...(task.state.details === wanted.details ? [] : [sql`details = ${wanted.details}`]),
    ...(task.state.due === wanted.due ? [] : [dueColumns(dueRow(dueFromList(wanted.due, await zoneOf(services, member))))]),
    sql`revision = revision + 1`,
  ];
  await services.database.worker.execute(
    sql`UPDATE tasks SET ${sql.join(changes, sql`, `)} WHERE id = ${task.id} AND revision = ${task.revision} AND removed_at IS NULL`,
  );
  if (task.state.done === wanted.done) return null;
  const changed = await changeTasks(services, member, { ids: [task.id], change: { done: wanted.done } });
  return isRefusal(changed) ? changed : null;
}

/** Tasks whose to-dos were taken out of a list go; from Undo they come back. */
export async function removeFromList(services: Parts, member: User, ids: readonly number[]): Promise<Refusal | null> {
  if (ids.length === 0) return null;
  const changed = await changeTasks(services, member, { ids, change: { removed: true } });
  return isRefusal(changed) ? changed : null;
}
