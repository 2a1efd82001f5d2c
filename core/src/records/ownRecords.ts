import type { OwnRecord, PersonRecord } from './recordTypes';

const NONE: readonly OwnRecord[] = [];

/** Answers which records of the workspace's own kinds a code, an address, a person or an account leads to. */
export class OwnRecords {
  private readonly byId = new Map<number, OwnRecord>();
  private readonly byCode = new Map<string, OwnRecord>();
  private readonly byAddress = new Map<string, OwnRecord[]>();
  private readonly byPerson = new Map<string, OwnRecord[]>();
  private readonly byAccount = new Map<number, OwnRecord[]>();

  constructor(records: Iterable<OwnRecord>) {
    for (const record of records) {
      this.byId.set(record.id, record);
      this.byCode.set(record.code, record);
      for (const address of record.addresses) append(this.byAddress, address, record);
      for (const person of record.people) append(this.byPerson, person, record);
      if (record.accountId !== null && record.people.length === 0) append(this.byAccount, record.accountId, record);
    }
  }

  /** Whether there are none: most workspaces define no kinds. */
  get isEmpty(): boolean {
    return this.byId.size === 0;
  }

  get(id: number): OwnRecord | undefined {
    return this.byId.get(id);
  }

  /** The record with this code in its one form, as `numbersIn` gives it. */
  withCode(code: string): OwnRecord | undefined {
    return this.byCode.get(code);
  }

  /** Those to which this comparable address leads. */
  at(address: string): readonly OwnRecord[] {
    return this.byAddress.get(address) ?? NONE;
  }

  ofPerson({ kind, id }: Pick<PersonRecord, 'kind' | 'id'>): readonly OwnRecord[] {
    return this.byPerson.get(`${kind}:${id}`) ?? NONE;
  }

  /** Those of an account alone: no one is on them. */
  ofAccount(id: number): readonly OwnRecord[] {
    return this.byAccount.get(id) ?? NONE;
  }
}

function append<K>(map: Map<K, OwnRecord[]>, key: K, record: OwnRecord): void {
  const list = map.get(key);
  if (list) list.push(record);
  else map.set(key, [record]);
}
