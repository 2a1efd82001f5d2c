import { sql } from 'drizzle-orm';
import type { RecordKind, routes, Task, User } from '@fulvet/contract';
import { domainOf, tasksAsCalendar } from '@fulvet/core';
import type { z } from 'zod';
import type { Tx } from '../base/db/database';
import type { Services } from '../base/services';
import { isDueNow, ofRecord, tasksWhere } from './queries';

type Query = z.output<(typeof routes)['listTasks']['query']>;

export function listTasks(
  { database }: Pick<Services, 'database'>,
  user: User,
  { who, due, record, emailId, ...query }: Query,
): Promise<{ tasks: Task[]; next: string | null }> {
  const conditions = [who === 'me' ? sql`t.assignee_id = ${user.id}` : sql`true`];
  if (due === 'now') conditions.push(isDueNow);
  if (emailId !== undefined) conditions.push(sql`t.email_id = ${emailId}`);
  const [kind, id] = record?.split(':') ?? [];
  if (kind !== undefined) conditions.push(ofRecord(kind as RecordKind, Number(id)));
  return database.as(user.id, (tx) => tasksWhere(tx, user, sql.join(conditions, sql` AND `), query));
}

/** Who has more to do than this takes the first ones along. */
const MOST_OUT = 2000;

/** The open tasks of the reader as iCalendar, what is due first at the beginning. */
export async function tasksOut({ database }: Pick<Services, 'database'>, user: User): Promise<string> {
  const { tasks } = await database.as(user.id, (tx) =>
    tasksWhere(tx, user, sql`t.assignee_id = ${user.id}`, { state: 'open', limit: MOST_OUT }),
  );
  return tasksAsCalendar(tasks, domainOf(user.email), new Date());
}

const MOST_AT_HOME = 12;

/** What the reader is to do today, and should have done before. */
export async function tasksForToday(tx: Tx, user: User): Promise<Task[]> {
  const { tasks } = await tasksWhere(tx, user, sql`t.assignee_id = ${user.id} AND ${isDueNow}`, { state: 'open', limit: MOST_AT_HOME });
  return tasks;
}
