import type { Client } from './client';
import { CommandError } from './client';

/** One line a kind of meeting: number, name, minutes, with which members. */
export async function listMeetingKinds(client: Client): Promise<void> {
  const { kinds } = await client.call('listMeetingKinds');
  for (const { id, name, minutes, members } of kinds)
    process.stdout.write(`${[id, name, minutes, members.map((member) => member.name).join(', ')].join('\t')}\n`);
}

/** Makes a link by which one guest books, and prints it; then so many free times with their links. */
export async function offerTimes(client: Client, number: string, { times, days }: { times: number; days: number }): Promise<void> {
  if (!/^\d{1,15}$/.test(number))
    throw new CommandError(`“${number}” is no number of a kind of meeting. “fulvet times list” shows them.`, 2);
  const offered = await client.call('offerTimes', { id: Number(number), body: { times, days } });
  process.stdout.write(`${offered.url}\n`);
  for (const { at, url } of offered.times) process.stdout.write(`${at}\t${url}\n`);
}

/** One line for each meeting that guests booked with the caller, from now on. */
export async function listBookings(client: Client): Promise<void> {
  const { bookings } = await client.call('listBookings');
  for (const { at, until, name, guest } of bookings) process.stdout.write(`${[at, until, name, guest.name, guest.address].join('\t')}\n`);
}
