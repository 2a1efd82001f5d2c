import { recordKey } from '@fulvet/contract';
import type { RecordKind } from '@fulvet/contract';
import { CommandError } from './client';

/** Records as they are named on the command line, such as `deal:7`. */
export const recordKeys = (named: readonly string[]): { kind: RecordKind; id: number }[] => named.map(recordOf);

/** A record as it is named on the command line. */
export function recordOf(named: string): { kind: RecordKind; id: number } {
  if (!recordKey.safeParse(named).success) throw new CommandError(`“${named}” is no record. Write its kind and number, such as deal:7.`, 2);
  const [kind = '', id = ''] = named.split(':');
  return { kind: kind as RecordKind, id: Number(id) };
}
