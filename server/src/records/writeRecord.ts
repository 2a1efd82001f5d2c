import { personAddresses, accountDomains, ownRecordAddresses } from '../base/db/schema';
import { idRow, rowsOf } from '../base/db/rows';
import type { OwnField } from '@fulvet/contract';
import type { SQL } from 'drizzle-orm';
import { sql, eq, and } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { RecordKind } from '@fulvet/contract';
import { PEOPLE_OF, tableOf } from './kinds';
import { readOwnValue } from './ownFields';
import type { WithPeople } from './peopleOnRecord';

/** Values of own fields that are named; an empty one is taken off. */
async function setOwnValues(tx: Tx, kind: RecordKind, id: number, values: Record<string, string>, own: readonly OwnField[]): Promise<void> {
  for (const field of own) {
    const text = values[field.key];
    if (text === undefined) continue;
    const read = readOwnValue(field, text);
    const value = 'value' in read ? read.value : null;
    const set =
      value === null ? sql`own - ${field.key}` : sql`own || jsonb_build_object(${field.key}::text, ${JSON.stringify(value)}::jsonb)`;
    await tx.execute(sql`UPDATE ${tableOf(kind)} SET own = ${set} WHERE id = ${id}`);
  }
}

/** Writes one record; fields that are not named stay as they are. @returns its id */
export async function writeRow(tx: Tx, kind: RecordKind, row: PlannedRow, own: readonly OwnField[]): Promise<number> {
  const id = row.id ?? (await insertRow(tx, kind, row));
  if (row.id !== null) await updateRow(tx, kind, row);
  if ((kind === 'contact' || kind === 'lead') && 'emails' in row.values) await setAddresses(tx, kind, id, row.addresses);
  if (kind === 'account' && 'domains' in row.values) await setDomains(tx, id, row.domains);
  if ((kind === 'deal' || kind === 'own') && 'people' in row.values) await setPeople(tx, { kind, id }, row.people);
  if (kind === 'own' && 'emails' in row.values) await setOwnAddresses(tx, id, row.addresses);
  await setOwnValues(tx, kind, id, row.values, own);
  return id;
}

/** Columns and their values, for the fields that the file has. */
function assignments(kind: RecordKind, row: PlannedRow): [SQL, SQL][] {
  const { values } = row;
  const set: [SQL, SQL][] = [[sql`name`, sql`${values.name}`]];
  const plain: Record<RecordKind, [string, SQL][]> = {
    account: [['type', sql`type`]],
    contact: [['title', sql`title`]],
    lead: [
      ['company', sql`company`],
      ['title', sql`title`],
      ['status', sql`status`],
    ],
    deal: [
      ['stage', sql`stage`],
      ['currency', sql`currency`],
    ],
    own: [['state', sql`state`]],
  };
  for (const [field, column] of plain[kind]) if (field in values) set.push([column, sql`${values[field]}`]);
  if ('phone' in values) set.push([sql`phones`, sql`array_remove(regexp_split_to_array(${values.phone}, '\\s*;\\s*'), '')`]);
  if ('owner' in values) set.push([sql`owner_id`, sql`${row.ownerId}`]);
  if ((kind === 'contact' || kind === 'deal' || kind === 'own') && 'account' in values)
    set.push([sql`account_id`, sql`(SELECT id FROM accounts WHERE lower(name) = lower(${row.accountName}))`]);
  if (kind !== 'deal' && kind !== 'own') return set;
  if (kind === 'deal' && 'code' in values) set.push([sql`code`, sql`nullif(${values.code}, '')`]);
  if ('amount' in values) set.push([sql`amount`, sql`nullif(${values.amount}, '')::numeric`]);
  if (values.opened_on || (kind === 'deal' && 'opened_on' in values))
    set.push([sql`opened_on`, sql`nullif(${values.opened_on}, '')::date`]);
  if ('closed_on' in values) set.push([sql`closed_on`, sql`nullif(${values.closed_on}, '')::date`]);
  set.push([sql`open`, sql`${values.open === 'yes'}`]);
  return set;
}

async function insertRow(tx: Tx, kind: RecordKind, row: PlannedRow): Promise<number> {
  const set = assignments(kind, row);
  if (kind === 'own') set.push([sql`kind_id`, sql`${row.ownKindId ?? null}`], [sql`code`, await numberFor(tx, row)]);
  const rows = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO ${tableOf(kind)} (${sql.join(
      set.map(([column]) => column),
      sql`, `,
    )}) VALUES (${sql.join(
      set.map(([, value]) => value),
      sql`, `,
    )}) RETURNING id`,
  );
  return rows[0]?.id ?? 0;
}

/** The number of a new record of an own kind: the one that it brings, and the next one otherwise. */
async function numberFor(tx: Tx, { ownKindId, values: { code } }: PlannedRow): Promise<SQL> {
  if (!code) return sql`fulvet_next_own_code(${ownKindId ?? null})`;
  await tx.execute(sql`SELECT fulvet_keep_own_number(${ownKindId ?? null}, ${Number(code.slice(code.lastIndexOf('-') + 1))}::int)`);
  return sql`${code}`;
}

/** A contact who goes from one account to another leaves the mail of that time with the former. */
async function keepFormerAccount(tx: Tx, row: PlannedRow): Promise<void> {
  await tx.execute(sql`INSERT INTO contact_accounts (contact_id, account_id) SELECT c.id, c.account_id FROM contacts c
    WHERE c.id = ${row.id} AND c.account_id <> (SELECT id FROM accounts WHERE lower(name) = lower(${row.accountName}))`);
}

async function updateRow(tx: Tx, kind: RecordKind, row: PlannedRow): Promise<void> {
  if (kind === 'contact' && 'account' in row.values) await keepFormerAccount(tx, row);
  const set = assignments(kind, row).map(([column, value]) => sql`${column} = ${value}`);
  await tx.execute(sql`UPDATE ${tableOf(kind)} SET ${sql.join(set, sql`, `)} WHERE id = ${row.id}`);
}

async function setAddresses(tx: Tx, kind: 'contact' | 'lead', id: number, addresses: readonly string[]): Promise<void> {
  await tx.delete(personAddresses).where(and(eq(personAddresses.kind, kind), eq(personAddresses.personId, id)));
  for (const [position, address] of addresses.entries()) await tx.insert(personAddresses).values({ kind, personId: id, address, position });
}

async function setDomains(tx: Tx, id: number, domains: readonly string[]): Promise<void> {
  await tx.delete(accountDomains).where(eq(accountDomains.accountId, id));
  for (const domain of domains) await tx.insert(accountDomains).values({ accountId: id, domain }).onConflictDoNothing();
}

async function setOwnAddresses(tx: Tx, id: number, addresses: readonly string[]): Promise<void> {
  await tx.delete(ownRecordAddresses).where(eq(ownRecordAddresses.recordId, id));
  for (const address of addresses) await tx.insert(ownRecordAddresses).values({ recordId: id, address });
}

/** Sets the people of a deal, or of a record of an own kind, by their addresses; what those who stay are to it stays. */
async function setPeople(tx: Tx, { kind, id }: WithPeople, addresses: readonly string[]): Promise<void> {
  const { table, id: column } = PEOPLE_OF[kind];
  const kept = sql`SELECT kind, person_id FROM person_addresses WHERE address = ANY(${sql.param([...addresses])}::text[])`;
  await tx.execute(
    sql`DELETE FROM ${table} p WHERE p.${column} = ${id} AND NOT EXISTS (SELECT FROM (${kept}) k WHERE k.kind = p.kind AND k.person_id = p.person_id)`,
  );
  await tx.execute(sql`INSERT INTO ${table} (${column}, kind, person_id) SELECT DISTINCT ${id}::bigint, a.kind, a.person_id FROM person_addresses a
    WHERE a.address = ANY(${sql.param([...addresses])}::text[]) AND (a.kind = 'contact' OR NOT EXISTS (SELECT FROM person_addresses b WHERE b.kind = 'contact' AND b.address = a.address)) ON CONFLICT DO NOTHING`);
}

export async function setParent(tx: Tx, row: PlannedRow): Promise<void> {
  if (!('parent' in row.values)) return;
  await tx.execute(
    sql`UPDATE accounts SET parent_id = (SELECT id FROM accounts WHERE lower(name) = lower(${row.accountName})) WHERE id = ${row.id}`,
  );
}

/** One line of a file, understood. */
export interface PlannedRow {
  line: number;
  action: 'create' | 'update' | 'same';
  /** Id of the record to update, else null. */
  id: number | null;
  /** Text by field, only the fields that the file has. */
  values: Record<string, string>;
  ownerId: number | null;
  accountName: string | null;
  addresses: string[];
  domains: string[];
  people: string[];
  /** Of a record of an own kind: the kind. */
  ownKindId?: number;
  /** Name of the record that it takes over, which goes by another. */
  instead?: string;
}
