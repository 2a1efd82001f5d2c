import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { recordKind } from '@fulvet/contract';
import type { RecordKind } from '@fulvet/contract';
import type { FieldValues } from '@fulvet/core';
import type { Tx } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import { currentValues } from '../../records/currentValues';
import { RECORD_FIELDS } from '../../records/fields';
import { ownFields } from '../../records/ownFields';
import { senderFields } from '../senders/signature';

interface RecordRef {
  kind: RecordKind;
  id: number;
}

/** For whom, and of what, a text is filled. */
export interface FilledFor {
  person: RecordRef | null;
  /** Name and address of someone who has no record. */
  withoutRecord: { name: string; address: string } | null;
  accountId: number | null;
  dealId: number | null;
  sender: { name: string; address: string };
  /** BCP 47; empty: English. Dates are written in it. */
  language: string;
}

const DAY_MS = 86_400_000;
const DATES = [
  { key: 'date.today', label: 'Today', days: 0 },
  { key: 'date.tomorrow', label: 'Tomorrow', days: 1 },
  { key: 'date.in7days', label: 'In seven days', days: 7 },
] as const;
const SENDER = [
  { key: 'sender.name', label: 'Sender: name' },
  { key: 'sender.firstName', label: 'Sender: first name' },
  { key: 'sender.email', label: 'Sender: address' },
];
const PERSON = [
  { key: 'person.firstName', label: 'Person: first name' },
  { key: 'person.lastName', label: 'Person: last name' },
  { key: 'person.email', label: 'Person: address' },
];
/** Lists, and what is of use to no reader of an email. */
const LEFT_OUT = new Set(['emails', 'domains', 'people', 'open', 'parent', 'owner', 'account']);

const labelOf = (text: string): string => text.replace(/_/g, ' ');

/** All fields that a text can have. */
export async function mergeFieldsOf(tx: Tx): Promise<{ key: string; label: string }[]> {
  const ofRecord = async (prefix: string, title: string, kind: RecordKind): Promise<{ key: string; label: string }[]> => [
    ...RECORD_FIELDS[kind]
      .filter(({ name }) => !LEFT_OUT.has(name))
      .map(({ name }) => ({ key: `${prefix}.${name}`, label: `${title}: ${labelOf(name)}` })),
    ...(await ownFields(tx, kind)).map(({ key, label }) => ({ key: `${prefix}.${key}`, label: `${title}: ${label}` })),
  ];
  return [
    ...PERSON,
    ...(await ofRecord('person', 'Person', 'contact')),
    ...(await ofRecord('account', 'Account', 'account')),
    ...(await ofRecord('deal', 'Deal', 'deal')),
    ...SENDER,
    ...DATES.map(({ key, label }) => ({ key, label })),
  ];
}

/** First and last name; `Brandt, Ida` is turned round. */
function namesOf(name: string): { first: string; last: string } {
  const [last = '', first] = name.split(/,\s*/, 2);
  if (first) return { first: first.split(' ')[0] ?? first, last };
  const parts = name.includes('@') ? [] : name.trim().split(/\s+/);
  return { first: parts[0] ?? '', last: parts.length > 1 ? (parts.at(-1) ?? '') : '' };
}

/** What each field stands for. Of records only what the acting user may see. */
export async function fieldValues(tx: Tx, { person, withoutRecord, accountId, dealId, sender, language }: FilledFor): Promise<FieldValues> {
  const values = new Map<string, string>(senderFields(sender));
  const put = (prefix: string, texts: Record<string, string> | undefined): void => {
    for (const [key, value] of Object.entries(texts ?? {})) values.set(`${prefix}.${key}`.toLowerCase(), value);
  };
  const read = async (kind: RecordKind, id: number | null) => (id === null ? undefined : (await currentValues(tx, kind, [id])).get(id));
  const ofPerson = person ? await read(person.kind, person.id) : undefined;
  put('person', ofPerson ?? (withoutRecord ? { name: withoutRecord.name, emails: withoutRecord.address } : undefined));
  const { first, last } = namesOf(values.get('person.name') ?? '');
  put('person', { firstname: first, lastname: last, email: (values.get('person.emails') ?? '').split(';')[0] ?? '' });
  put('account', await read('account', accountId));
  put('deal', await read('deal', dealId));
  const date = new Intl.DateTimeFormat(language || 'en-GB', { dateStyle: 'long' });
  for (const { key, days } of DATES) values.set(key, date.format(Date.now() + days * DAY_MS));
  return values;
}

const companyRow = z.object({ account_id: z.number().nullable() });
const personRow = z.object({ kind: recordKind, id: z.number() });

/** The person who has an address, contacts before leads; null: no one. */
export async function personAt(tx: Tx, address: string): Promise<RecordRef | null> {
  const [row] = await rowsOf(
    tx,
    personRow,
    sql`SELECT a.kind, a.person_id AS id FROM person_addresses a JOIN records r ON r.kind = a.kind AND r.id = a.person_id WHERE a.address = ${address} ORDER BY a.kind, a.person_id LIMIT 1`,
  );
  return row ?? null;
}

/** The account of a contact or a deal; null: none. */
export async function accountOf(tx: Tx, { kind, id }: RecordRef): Promise<number | null> {
  if (kind === 'account') return id;
  if (kind === 'lead') return null;
  const table = sql.identifier(kind === 'deal' ? 'deals' : 'contacts');
  const [row] = await rowsOf(tx, companyRow, sql`SELECT account_id FROM ${table} WHERE id = ${id}`);
  return row?.account_id ?? null;
}
