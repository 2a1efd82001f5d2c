import type { Client } from './client';
import { CommandError } from './client';
import { recordKeys } from './recordKeys';
import { say } from './texts';

export interface TaskToAdd {
  record: string[];
  due?: string;
  private: boolean;
}

const DUE = /^(\d{4}-\d{2}-\d{2})(?:T(\d{2}:\d{2}))?$/;

/** Writes down what the caller is to do. */
export async function addTask(client: Client, text: string, { record, due, private: isPrivate }: TaskToAdd): Promise<void> {
  const [, day, time = null] = DUE.exec(due ?? '') ?? [];
  if (due !== undefined && day === undefined)
    throw new CommandError(`“${due}” is no day. Write it such as 2026-12-01, or 2026-12-01T14:30.`, 2);
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const made = await client.call('createTask', {
    body: { text, isPrivate, records: recordKeys(record), ...(day === undefined ? {} : { due: { day, time, zone } }) },
  });
  say(`Task ${made.id} is written down.`);
}

/** Prints tasks, a line each: number, when it is due or was done, who does it, what it is. */
export async function listTasks(client: Client, { all, done }: { all: boolean; done: boolean }): Promise<void> {
  let after: string | undefined;
  do {
    const page = await client.call('listTasks', {
      who: all ? 'all' : 'me',
      state: done ? 'done' : 'open',
      limit: 200,
      ...(after === undefined ? {} : { after }),
    });
    for (const task of page.tasks) {
      const when = task.done ? task.done.at : task.due ? [task.due.day, task.due.time].filter(Boolean).join('T') : '';
      process.stdout.write(`${[task.id, when, task.assignee.name, task.text.replace(/\s+/g, ' ')].join('\t')}\n`);
    }
    after = page.next ?? undefined;
  } while (after !== undefined);
}

/** Says that tasks are done. */
export async function finishTasks(client: Client, numbers: readonly string[]): Promise<void> {
  const ids = numbers.map((number) => {
    if (!/^\d{1,15}$/.test(number)) throw new CommandError(`“${number}” is no number of a task. “fulvet tasks list” shows them.`, 2);
    return Number(number);
  });
  const { changed, kept } = await client.call('changeTasks', { body: { ids, change: { done: true } } });
  for (const { name, because } of kept) say(`Not changed: ${name} (${because}).`);
  say(`${changed} task${changed === 1 ? '' : 's'} done.`);
}

/** Prints what the caller is to do as iCalendar. */
export async function exportTasks(client: Client): Promise<void> {
  process.stdout.write(await (await client.stream('/tasks/export')).text());
}
