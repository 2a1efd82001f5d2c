import type { RecordKind } from '@fulvet/contract';

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
