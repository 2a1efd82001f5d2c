import type { Client } from './client';
import { CommandError } from './client';
import { recordKeys } from './recordKeys';
import { say } from './texts';

export interface ContactToLog {
  record: string[];
  at?: string;
  direction: string;
  private: boolean;
}

/** Writes down contact that is not mail, for the history of records. */
export async function logContact(
  client: Client,
  kind: string,
  text: string,
  { record, at, direction, private: isPrivate }: ContactToLog,
): Promise<void> {
  const records = recordKeys(record);
  const when = at === undefined ? new Date() : new Date(at);
  if (Number.isNaN(when.getTime())) throw new CommandError(`“${at ?? ''}” is no time. Write it such as 2026-12-01T14:30.`, 2);
  const logged = await client.call('logActivity', {
    body: {
      kind: kind as 'call' | 'meeting' | 'letter' | 'message' | 'note',
      at: when.toISOString(),
      direction: direction as 'sent' | 'received' | 'both',
      text,
      isPrivate,
      records,
    },
  });
  say(`Logged under ${logged.records.map(({ name }) => name).join(', ')}.`);
}
