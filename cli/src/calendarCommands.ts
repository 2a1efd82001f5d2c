import type { MailboxCalendars } from '@fulvet/contract';
import type { Client } from './client';
import { CommandError } from './client';
import { say, textOf } from './texts';

/** The number of a mailbox by its address. @throws {CommandError} where there is none */
async function mailboxOf(client: Client, address: string): Promise<number> {
  const { mailboxes } = await client.call('listMailboxes');
  const found = mailboxes.find((mailbox) => mailbox.address === address.toLowerCase());
  if (!found) throw new CommandError(`There is no mailbox ${address}. “fulvet mailbox list” shows them.`, 2);
  return found.id;
}

/** One line a calendar: number, name, host, whether it is read, events, what is wrong. */
function print({ calendars }: MailboxCalendars): void {
  for (const { id, kind, name, host, followed, events, problem } of calendars)
    process.stdout.write(
      `${[id, name, host, followed ? 'read' : 'not read', `${events} ${kind === 'tasks' ? 'tasks' : 'events'}`, problem?.title ?? ''].join('\t').trimEnd()}\n`,
    );
}

export async function listCalendars(client: Client, address: string): Promise<void> {
  print(await client.call('listCalendars', { id: await mailboxOf(client, address) }));
}

/** Finds the calendars at a server, and prints them. */
export async function connectCalendars(
  client: Client,
  address: string,
  url: string,
  { user = '', passwordFile }: { user?: string; passwordFile?: string },
): Promise<void> {
  const password = passwordFile === undefined ? '' : ((await textOf(passwordFile)).split(/\r?\n/)[0] ?? '');
  print(await client.call('connectCalendars', { id: await mailboxOf(client, address), body: { url, userName: user, password } }));
}

/** Subscribes to a calendar file; its address is read from a file, since it opens the calendar to whoever knows it. */
export async function subscribeCalendar(client: Client, address: string, name: string, addressFile: string): Promise<void> {
  const url = ((await textOf(addressFile)).split(/\r?\n/)[0] ?? '').trim();
  print(await client.call('subscribeCalendar', { id: await mailboxOf(client, address), body: { url, name } }));
}

/** Reads a calendar from now on, or no longer. */
export async function followCalendar(client: Client, number: string, followed: boolean): Promise<void> {
  const { calendars } = await client.call('followCalendar', { id: numberOf(number), body: { followed } });
  const name = calendars.find(({ id }) => id === Number(number))?.name ?? number;
  say(followed ? `${name} is read from now on.` : `${name} is no longer read. Its events stay.`);
}

export async function removeCalendar(client: Client, number: string): Promise<void> {
  await client.call('removeCalendar', { id: numberOf(number) });
  say('Removed. Its events stay.');
}

function numberOf(text: string): number {
  if (!/^\d{1,15}$/.test(text)) throw new CommandError(`“${text}” is no number of a calendar. “fulvet calendar list” shows them.`, 2);
  return Number(text);
}
