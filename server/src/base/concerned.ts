import type { RecordKind } from '@fulvet/core';

/** Whose mail a change of records concerns. */
export interface Concerned {
  /** Addresses of people, those of before too. */
  addresses: string[];
  /** Domains of companies, those of before too. */
  domains: string[];
  /** Codes that deals had before, where their codes changed: mail that names those of now is concerned, too. */
  codes?: string[];
  /** Names that accounts had before, and those of accounts that deals were of. */
  companies?: string[];
  /** The records that changed: the mail of everyone and everything that they lead to as they stand now. */
  records?: { kind: RecordKind; ids: number[] };
  /** People who got another name: mail that asks whether someone is one of them. */
  renamed?: { kind: RecordKind; ids: number[] };
}

/** Whether there is any mail to decide again. */
export const concernsMail = ({ addresses, domains, codes = [], companies = [], records, renamed }: Concerned): boolean =>
  addresses.length + domains.length + codes.length + companies.length + (records?.ids.length ?? 0) + (renamed?.ids.length ?? 0) > 0;

export async function decideFor(
  { jobs }: { jobs: { decideConcerned: (scope: Concerned) => Promise<void> } },
  concerned: Concerned,
): Promise<void> {
  if (concernsMail(concerned)) await jobs.decideConcerned(concerned);
}
