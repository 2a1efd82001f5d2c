import type { RecordKind } from '../facts/recordKind';
import { nameLikeness } from '../records/nameLikeness';

/** An external person who takes part in emails, as far as grouping needs it. */
export interface EachPerson {
  address: string;
  name: string;
  company: string;
  /** Empty at public providers. */
  domain: string;
  record: { kind: RecordKind; id: number; name: string } | null;
  accounts: readonly { id: number; name: string }[];
  role: boolean;
  machine: boolean;
  keptOut: boolean;
}

/** Those with whose emails one record might begin. */
export interface EachGroup<P extends EachPerson> {
  /** The address, or what tells the company. */
  key: string;
  name: string;
  people: P[];
  account: { id: number; name: string } | null;
  domain: string;
  /** Why no record is proposed; null: one is. */
  unfit: 'kept out' | 'machine' | 'role' | 'public provider' | null;
}

/** By what one record each begins: contacts and leads are people, accounts are companies, other records may be of either. */
export const eachBy = (kind: RecordKind, per: 'person' | 'company'): 'person' | 'company' =>
  kind === 'contact' || kind === 'lead' ? 'person' : kind === 'account' ? 'company' : per;

/** People one by one, or together with those of their company; in the order in which they come. */
export function eachGroups<P extends EachPerson>(people: readonly P[], kind: RecordKind, per: 'person' | 'company'): EachGroup<P>[] {
  const by = eachBy(kind, per);
  const groups = new Map<string, EachGroup<P>>();
  for (const person of people) {
    const [account = null] = person.accounts.length === 1 ? person.accounts : [];
    const key = by === 'person' ? person.address : account ? `account:${account.id}` : person.domain || person.address;
    const group = groups.get(key);
    if (group) group.people.push(person);
    else
      groups.set(key, {
        key,
        name: by === 'person' ? nameOf(person) : (account?.name ?? (person.company || person.domain || nameOf(person))),
        people: [person],
        account,
        domain: person.domain,
        unfit: null,
      });
  }
  return [...groups.values()].map((group) => ({ ...group, unfit: unfitOf(group, kind, by) }));
}

const nameOf = ({ name, record, address }: EachPerson): string => record?.name ?? (name || address);

function unfitOf(
  { people, account, domain }: EachGroup<EachPerson>,
  kind: RecordKind,
  by: 'person' | 'company',
): EachGroup<EachPerson>['unfit'] {
  if (people.every((person) => person.keptOut)) return 'kept out';
  if (people.every((person) => person.keptOut || person.machine)) return 'machine';
  if (by === 'person' && people.every((person) => person.role)) return 'role';
  return kind === 'account' && !account && domain === '' ? 'public provider' : null;
}

/** Names that are less alike are not asked about. */
const ALIKE = 0.85;
/** So many words of a name are looked up: a slip in one leaves another. */
const MOST_WORDS = 3;

/** Which of these records have almost the same name, the most alike first. */
export function alikeNames<R extends { name: string }>(name: string, records: readonly R[]): R[] {
  return records
    .map((record) => ({ record, likeness: nameLikeness(name, record.name) }))
    .filter(({ likeness }) => likeness >= ALIKE)
    .sort((one, other) => other.likeness - one.likeness)
    .map(({ record }) => record);
}

/** The words of a name by which records that are called alike are looked up: the longest first; none where it says too little. */
export const wordsToLookUp = (name: string): string[] =>
  [...new Set(name.split(/[^\p{L}\d]+/u))]
    .filter((word) => word.length >= 3)
    .sort((one, other) => other.length - one.length)
    .slice(0, MOST_WORDS);
