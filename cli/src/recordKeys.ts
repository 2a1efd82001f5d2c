import { CommandError } from './client';

const RECORD = /^(contact|lead|account|deal):(\d{1,15})$/;

/** Records as they are named on the command line, such as `deal:7`. */
export function recordKeys(named: readonly string[]): { kind: 'contact' | 'lead' | 'account' | 'deal'; id: number }[] {
  return named.map((key) => {
    const [, kind = '', id = ''] = RECORD.exec(key) ?? [];
    if (kind === '') throw new CommandError(`“${key}” is no record. Write its kind and number, such as deal:7.`, 2);
    return { kind: kind as 'contact' | 'lead' | 'account' | 'deal', id: Number(id) };
  });
}
