import { user as userShape } from '@fulvet/contract';
import type { User } from '@fulvet/contract';
import { domainOf, isSameState, mergedState, writtenTodo } from '@fulvet/core';
import type { ListedTodo, ListState } from '@fulvet/core';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { randomBytes } from 'node:crypto';
import { z } from 'zod';
import type { ListedTask } from '../../agenda/listedTasks';
import { changeFromList, removeFromList, taskFromList, tasksForList } from '../../agenda/listedTasks';
import { calendarTodos } from '../../base/db/schema';
import { rowsOf } from '../../base/db/rows';
import { ReadingGivenUp } from '../../base/reading/readerPool';
import type { Services } from '../../base/services';
import { CalendarFailure } from './calendarFailure';
import { calendarTargetOf } from './calendarSecret';
import type { FetchedObject, ListedObject } from './calendarServer';
import { CalendarServer } from './calendarServer';

/** A list of to-dos whose turn it is. */
export interface DueList {
  id: number;
  mailbox_id: number;
  url: string;
}

const OBJECTS_TOGETHER = 25;
/** So many new to-dos are taken in, and so many objects written, in one turn. */
const MOST_A_TURN = 500;
/** If more open tasks than this are missing at once, and most of the list with them, the list may be broken: nothing is removed. */
const MOST_GONE = 5;

interface Known {
  href: string;
  etag: string;
  taskId: number | null;
  base: ListState | null;
}

/** One turn of keeping the tasks of a member and a list of to-dos the same. */
interface Turn {
  services: Services;
  list: DueList;
  member: User;
  server: CalendarServer;
}

/**
 * Makes the tasks of a member and a list at a CalDAV server the same. What one side changed since both said the same goes to the other; where both changed a
 * field, the task stands. To-dos that come back by a rule of their own are passed over.
 *
 * @throws {CalendarFailure}
 */
export async function syncTasks(services: Services, list: DueList): Promise<void> {
  const member = await memberOf(services, list);
  const server = new CalendarServer(services.network, await calendarTargetOf(services, list.mailbox_id));
  const turn = { services, list, member, server };
  const listed = await server.listTodos(list.url);
  await takeOutGone(turn, listed);
  await takeInChanged(turn, listed);
  await writeOut(turn);
}

/** Whose tasks they are: whoever chose the list, as long as the mailbox is theirs. */
async function memberOf({ database }: Services, { id }: DueList): Promise<User> {
  const [member] = await rowsOf(
    database.worker,
    userShape,
    sql`SELECT u.id, u.email, u.name, u.role FROM calendars c JOIN mailboxes m ON m.id = c.mailbox_id JOIN users u ON u.id = m.owner_id AND u.id = c.followed_by
      WHERE c.id = ${id} AND u.active AND u.role <> 'viewer'`,
  );
  if (!member) throw new CalendarFailure('not-followed');
  return member;
}

const knownRow = z.object({
  href: z.string(),
  etag: z.string(),
  task_id: z.number().nullable(),
  base: z.object({ text: z.string(), details: z.string(), due: z.string().nullable(), done: z.boolean() }).nullable(),
});

async function knownTodos({ services, list }: Turn): Promise<Map<string, Known>> {
  const rows = await rowsOf(
    services.database.worker,
    knownRow,
    sql`SELECT href, etag, task_id, base FROM calendar_todos WHERE calendar_id = ${list.id}`,
  );
  return new Map(rows.map(({ task_id: taskId, ...row }) => [row.href, { ...row, taskId }]));
}

async function note({ services, list }: Turn, { href, etag, taskId, base }: Known): Promise<void> {
  await services.database.worker
    .insert(calendarTodos)
    .values({ calendarId: list.id, href, etag, taskId, base })
    .onConflictDoUpdate({ target: [calendarTodos.calendarId, calendarTodos.href], set: { etag, taskId, base } });
}

async function forget({ services, list }: Turn, hrefs: readonly string[]): Promise<void> {
  if (hrefs.length === 0) return;
  await services.database.worker
    .delete(calendarTodos)
    .where(and(eq(calendarTodos.calendarId, list.id), inArray(calendarTodos.href, [...hrefs])));
}

const idsOf = (known: Iterable<Known>): number[] => [...known].flatMap(({ taskId }) => taskId ?? []);

/** Open tasks whose to-dos were taken out of the list go. */
async function takeOutGone(turn: Turn, listed: readonly ListedObject[]): Promise<void> {
  const known = await knownTodos(turn);
  const there = new Set(listed.map(({ href }) => href));
  const gone = [...known.values()].filter(({ href }) => !there.has(href));
  if (gone.length === 0) return;
  const tasks = await tasksForList(turn.services, turn.member, idsOf(gone));
  const open = idsOf(gone).filter((id) => tasks.some((task) => task.id === id && !task.state.done));
  if (open.length > MOST_GONE && gone.length > known.size / 2) throw new CalendarFailure('most-gone');
  if (await removeFromList(turn.services, turn.member, open)) return;
  await forget(
    turn,
    gone.map(({ href }) => href),
  );
}

async function takeInChanged(turn: Turn, listed: readonly ListedObject[]): Promise<void> {
  const known = await knownTodos(turn);
  const changed = listed.filter(({ href, etag }) => known.get(href)?.etag !== etag).slice(0, MOST_A_TURN);
  if (changed.length === 0) return;
  const tasks = await tasksForList(turn.services, turn.member, idsOf(changed.flatMap(({ href }) => known.get(href) ?? [])));
  for (let at = 0; at < changed.length; at += OBJECTS_TOGETHER) {
    const hrefs = changed.slice(at, at + OBJECTS_TOGETHER).map(({ href }) => href);
    for (const object of await turn.server.fetchObjects(turn.list.url, hrefs)) {
      const taken = await takeIn(turn, object, known.get(object.href), free(tasks, known));
      known.set(taken.href, taken);
      await note(turn, taken);
    }
  }
}

/** Tasks, of which some are not in the list yet. */
interface Tasks {
  all: readonly ListedTask[];
  isFree: (task: ListedTask) => boolean;
}

function free(all: readonly ListedTask[], known: ReadonlyMap<string, Known>): Tasks {
  const taken = new Set(idsOf(known.values()));
  return { all, isFree: ({ id }) => !taken.has(id) };
}

/** What a to-do says now goes to its task; a new one becomes a task. @returns what is to be noted of it */
async function takeIn({ services, member }: Turn, object: FetchedObject, before: Known | undefined, tasks: Tasks): Promise<Known> {
  const { href, etag } = object;
  const todo = await read(services, object.text);
  if (!todo) return { href, etag, taskId: before?.taskId ?? null, base: before?.base ?? null };
  const now = { href, etag, base: todo.state };
  if (before?.base && before.taskId !== null) {
    const task = tasks.all.find(({ id }) => id === before.taskId);
    const refused = task ? await changeFromList(services, member, task, mergedState(before.base, task.state, todo.state)) : null;
    // What could not be taken over is tried again: the object counts as not read.
    if (refused) return before;
    return { ...now, taskId: before.taskId };
  }
  // It was written from a task, and it is not known any more that it was.
  const own = tasks.all.find((task) => tasks.isFree(task) && uidOf(task.id, member) === todo.uid);
  if (own) return { ...now, taskId: own.id };
  const taskId = todo.recurs || todo.state.done ? null : await taskFromList(services, member, todo.state);
  return { ...now, taskId };
}

const uidOf = (id: number, member: User): string => `task-${id}@${domainOf(member.email)}`;

async function read(services: Services, text: string): Promise<ListedTodo | null> {
  try {
    return await services.blobs.readers.read('todo', text);
  } catch (error) {
    if (error instanceof ReadingGivenUp) return null;
    throw error;
  }
}

/** What the tasks say goes into the list; the to-dos of tasks that went elsewhere go. */
async function writeOut(turn: Turn): Promise<void> {
  const { services, member, list } = turn;
  const known = [...(await knownTodos(turn)).values()].filter(({ taskId }) => taskId !== null);
  const byTask = new Map(known.map((row) => [row.taskId, row]));
  const tasks = await tasksForList(services, member, idsOf(known));
  const toWrite = tasks
    .filter(({ id, state }) => {
      const row = byTask.get(id);
      return row?.base ? !isSameState(row.base, state) : !state.done;
    })
    .slice(0, MOST_A_TURN);
  for (const task of toWrite) {
    const row = byTask.get(task.id);
    if (row) await writeChange(turn, row, task);
    else await writeNew(turn, task);
  }
  const there = new Set(tasks.map(({ id }) => id));
  for (const row of known.filter(({ taskId }) => taskId !== null && !there.has(taskId)).slice(0, MOST_A_TURN))
    if (await turn.server.remove(addressOf(list, row.href), row.etag)) await forget(turn, [row.href]);
}

async function writeNew(turn: Turn, { id, state }: ListedTask): Promise<void> {
  const url = new URL(`fulvet-task-${id}-${randomBytes(4).toString('hex')}.ics`, withSlash(turn.list.url));
  const text = writtenTodo(null, uidOf(id, turn.member), state, Date.now());
  if (text === null) return;
  const etag = await turn.server.write(url.href, text, null);
  if (etag !== null) await note(turn, { href: url.pathname, etag, taskId: id, base: state });
}

async function writeChange(turn: Turn, row: Known, { state }: ListedTask): Promise<void> {
  const [object] = await turn.server.fetchObjects(turn.list.url, [row.href]);
  // What was changed there meanwhile comes in first.
  if (object?.etag !== row.etag) return;
  const text = await turn.services.blobs.readers.read('changedTodo', { text: object.text, state, at: Date.now() });
  if (text === null) return;
  const etag = await turn.server.write(addressOf(turn.list, row.href), text, row.etag);
  if (etag !== null) await note(turn, { ...row, etag, base: state });
}

const withSlash = (url: string): string => (url.endsWith('/') ? url : `${url}/`);

/** Where an object is; the password goes nowhere but to the server of the list. @throws {CalendarFailure} */
function addressOf({ url }: DueList, href: string): string {
  const address = new URL(href, url);
  if (address.origin !== new URL(url).origin) throw new CalendarFailure('not-a-calendar', 'It lists objects of another server.');
  return address.href;
}
