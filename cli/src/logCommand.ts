import type { Client } from './client';
import { CommandError } from './client';
import { say } from './texts';

export interface ContactToLog {
  record: string[];
  at?: string;
  direction: string;
  private: boolean;
}

const RECORD = /^(contact|lead|account|deal):(\d{1,15})$/;

/** Writes down contact that is not mail, for the history of records. */
export async function logContact(
  client: Client,
  kind: string,
  text: string,
  { record, at, direction, private: isPrivate }: ContactToLog,
): Promise<void> {
  const records = record.map((key) => {
    const [, of = '', id = ''] = RECORD.exec(key) ?? [];
    if (of === '') throw new CommandError(`“${key}” is no record. Write its kind and number, such as deal:7.`, 2);
    return { kind: of as 'contact' | 'lead' | 'account' | 'deal', id: Number(id) };
  });
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
