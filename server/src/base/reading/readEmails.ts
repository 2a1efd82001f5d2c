import { unreadFacts } from '@fulvet/core';
import type { EmailFacts } from '@fulvet/core';
import type { ReaderPool } from './readerPool';
import { ReadingGivenUp } from './readerPool';
import type { Unread } from './readTasks';

const TOGETHER_MESSAGES = 50;
const TOGETHER_BYTES = 2 * 1024 * 1024;

/**
 * Reads messages in the threads of the pool, in their order. One that exceeds the limits comes back unread, with its reason as its problem:
 * it is stored like any other and never read again by itself.
 */
export async function readEmails(pool: ReaderPool, messages: readonly Unread[]): Promise<EmailFacts[]> {
  const read = await Promise.all(groupsOf(messages).map((group) => readGroup(pool, group)));
  return read.flat();
}

/** Messages travel together; when a group fails, each is tried alone, so that only those at fault stay unread. */
async function readGroup(pool: ReaderPool, group: readonly Unread[]): Promise<EmailFacts[]> {
  try {
    return await pool.read('emails', group);
  } catch (error) {
    if (!(error instanceof ReadingGivenUp) || pool.isClosed) throw error;
    const [only] = group;
    if (group.length === 1 && only) return [unreadFacts(only.raw, only.options, error.message)];
    const halves = [group.slice(0, group.length >> 1), group.slice(group.length >> 1)];
    return (await Promise.all(halves.map((half) => readGroup(pool, half)))).flat();
  }
}

function groupsOf(messages: readonly Unread[]): Unread[][] {
  const groups: Unread[][] = [];
  let bytes = TOGETHER_BYTES;
  for (const message of messages) {
    const last = groups.at(-1);
    if (last && last.length < TOGETHER_MESSAGES && bytes + message.raw.length <= TOGETHER_BYTES) last.push(message);
    else {
      groups.push([message]);
      bytes = 0;
    }
    bytes += message.raw.length;
  }
  return groups;
}
