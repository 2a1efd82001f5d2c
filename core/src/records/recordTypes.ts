/** A contact or a lead. */
export interface PersonRecord {
  kind: 'contact' | 'lead';
  id: number;
  name: string;
  accountId: number | null;
  /** Accounts that the person was with before, the earliest first, each until a time in milliseconds. */
  formerAccounts?: readonly { accountId: number; until: number }[];
  /** Comparable addresses. */
  addresses: readonly string[];
  /** The email that Fulvet created the record from, or null. */
  originEmailId: number | null;
  /** Values of own fields as text by key: `yes`, `12.5`, `2026-05-04`. */
  own?: Readonly<Record<string, string>>;
}

export interface AccountRecord {
  id: number;
  name: string;
  domains: readonly string[];
  type: string;
  /** Address of the member who owns it, or null. */
  owner: string | null;
  originEmailId: number | null;
  /** Values of own fields as text by key: `yes`, `12.5`, `2026-05-04`. */
  own?: Readonly<Record<string, string>>;
}

export interface DealRecord {
  id: number;
  name: string;
  /** Reference code such as `QH-2041`, or null. */
  code: string | null;
  /** Names and codes that it had before: mail of that time is written with them. */
  formerNames?: readonly string[];
  formerCodes?: readonly string[];
  accountId: number | null;
  open: boolean;
  stage: string;
  amount: number | null;
  /** Address of the member who owns it, or null. */
  owner: string | null;
  /** When emails were filed under it beyond doubt (by conversation, code, or a person's word), milliseconds; the directory keeps them in order. */
  activity: number[];
  /** When a closed deal was closed, milliseconds at the end of that day, or null when it is not known. */
  closedAt: number | null;
  /** When it was opened, milliseconds, or null when it is not known. */
  openedAt: number | null;
  /** Contacts and leads on the deal, as `kind:id`. */
  people: readonly string[];
  /** Values of own fields as text by key: `yes`, `12.5`, `2026-05-04`. */
  own?: Readonly<Record<string, string>>;
}

/** A record of a kind that the workspace defines. What a deal has it has, too: its stage is its state. */
export interface OwnRecord extends DealRecord {
  /** Key of its kind. */
  kind: string;
  /** What a record of its kind is called in a sentence, such as `case`. */
  noun: string;
  code: string;
  /** Comparable addresses that lead to it. */
  addresses: readonly string[];
}
