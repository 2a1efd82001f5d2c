import type { RecordKind } from '@fulvet/contract';
import type { Tx } from '../base/db/database';
import { noteCreated } from '../records/recordLog';

/** Records that were started from emails. */
export interface Started {
  records: { kind: RecordKind; id: number; name: string }[];
  /** Under which records emails are filed; with addresses, only those in which one of them takes part. */
  file: { kind: RecordKind; id: number; addresses?: readonly string[] }[];
  /** Of those that were started one for each, whose mail is decided by all that they lead to. */
  each: number[];
  addresses: string[];
  domains: string[];
}

/** A record was started, which its log says, too. */
export async function noteStarted(tx: Tx, userId: number, started: Started, record: Started['records'][number]): Promise<void> {
  started.records.push(record);
  await noteCreated(tx, userId, record);
}
