import { z } from 'zod';
import { manyRowsOf } from '../../base/db/rows';
import type { OwnField, OwnKind, RecordKind } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { addressKey, domainToAscii } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import type { RecordTable } from '../../base/files/readCsv';
import { BY_HAND } from '../byHand';
import { currentValues } from '../currentValues';
import { nounOf } from '../kinds';
import { kindOfRecord, normaliseOwnRecord } from '../own/normaliseOwnRecord';
import { ownKinds } from '../own/ownKinds';
import { RECORD_FIELDS, fieldForHeader } from '../fields';
import { normaliseOwn, ownFields } from '../ownFields';
import { normaliseDeal, readAddresses, readDomains } from '../readValues';
import type { PlannedRow } from '../writeRecord';

export interface ImportPlan {
  kind: RecordKind;
  columns: { header: string; field: string | null }[];
  rows: PlannedRow[];
  bad: { line: number; reason: string }[];
  /** The own fields of the kind. */
  own: OwnField[];
}

interface Known {
  users: Map<string, number>;
  accounts: Map<string, number>;
  people: Map<string, { kind: 'contact' | 'lead'; id: number; name: string }>;
  /** Present text of each record of the kind, by id. */
  current: Map<number, Record<string, string>>;
  byKey: Map<string, number>;
  /** Accounts that Fulvet created and no one has changed since, by domain. */
  made: Map<string, number>;
}

/** Understands a file of records against what is known. Changes nothing; every line that cannot be taken is named with its reason. */
export async function planImport(
  tx: Tx,
  kind: RecordKind,
  table: RecordTable,
  { mapping, of }: { mapping?: Record<string, string> | undefined; of?: string | undefined },
  rulebook: CompiledRulebook,
): Promise<ImportPlan> {
  const kinds = kind === 'own' ? await ownKinds(tx) : [];
  const own = await ownFields(tx, kind, of);
  const columns = table.headers.map((header) => ({
    header,
    field: mapping && header in mapping ? mapping[header] || null : (fieldForHeader(kind, header) ?? ownFieldFor(own, header)),
  }));
  const bad = [...table.bad];
  const missing = RECORD_FIELDS[kind].find((field) => field.required && !columns.some((column) => column.field === field.name));
  if (missing && table.headers.length > 0)
    bad.unshift({ line: 1, reason: `No column is the ${missing.name}. Name a column “${missing.name}”, or say which one it is.` });
  if (missing) return { kind, columns, rows: [], bad, own };

  const known = await loadKnown(tx, kind, rulebook);
  const inFile: FileContext = { accountNames: new Set(), seen: new Map(), addressLines: new Map(), taken: new Set() };
  const named = table.rows.map((row) => ({ line: row.line, values: namedValues(columns, row.values) }));
  if (kind === 'account') for (const row of named) if (row.values.name) inFile.accountNames.add(row.values.name.toLowerCase());

  const rows: PlannedRow[] = [];
  for (const { line, values } of named) {
    if (kind === 'own' && of !== undefined) values.kind ||= of;
    const planned = normaliseOwn(own, values) ?? planRow(kind, line, values, { ...known, kinds }, inFile, rulebook);
    if (typeof planned === 'string') bad.push({ line, reason: planned });
    else rows.push(planned);
  }
  return { kind, columns, rows, bad: bad.sort((first, second) => first.line - second.line), own };
}

function ownFieldFor(own: readonly OwnField[], header: string): string | null {
  const wanted = header.trim().toLowerCase();
  return own.find((item) => item.key === wanted || item.label.toLowerCase() === wanted)?.key ?? null;
}

interface FileContext {
  accountNames: Set<string>;
  seen: Map<string, number>;
  addressLines: Map<string, number>;
  /** Records that a line before is about, though it has another name. */
  taken: Set<number>;
}

function namedValues(columns: readonly { header: string; field: string | null }[], values: Record<string, string>): Record<string, string> {
  const named: Record<string, string> = {};
  for (const { header, field } of columns) {
    const text = values[header]?.trim() ?? '';
    if (field && (text || !(field in named))) named[field] = field in named && named[field] ? `${named[field]};${text}` : text;
  }
  return named;
}

/** The row, or the reason why it cannot be taken. */
function planRow(
  kind: RecordKind,
  line: number,
  values: Record<string, string>,
  known: Known & { kinds: readonly OwnKind[] },
  inFile: FileContext,
  rulebook: CompiledRulebook,
): PlannedRow | string {
  if (!values.name) return 'The name is missing.';
  if (values.name.length > 300) return 'The name is longer than 300 characters.';
  const owner = values.owner ? known.users.get(values.owner.toLowerCase()) : null;
  if (owner === undefined) return `The owner ${values.owner ?? ''} is not on the team. Add them, or leave the owner empty.`;
  const addresses = readAddresses(values.emails ?? '', rulebook);
  if (typeof addresses === 'string') return addresses;
  const domains = readDomains(values.domains ?? '', rulebook);
  if (typeof domains === 'string') return domains;
  const reference = kind === 'account' ? values.parent : kind === 'lead' ? undefined : values.account;
  if (reference && !known.accounts.has(reference.toLowerCase()) && !inFile.accountNames.has(reference.toLowerCase()))
    return `The account “${reference}” is not known. Import it first, or correct the name.`;
  if (kind === 'account' && reference && reference.toLowerCase() === values.name.toLowerCase())
    return 'The account cannot be its own parent.';
  const people = readAddresses(values.people ?? '', rulebook);
  if (typeof people === 'string') return people;
  const stranger = people.find((address) => !known.people.has(address));
  if (stranger) return `${stranger} is neither a contact nor a lead. Import them first, or leave them out.`;
  const wrong = kind === 'deal' ? normaliseDeal(values) : null;
  if (wrong) return wrong;
  const stands = kind === 'own' && values.code ? known.byKey.get(codeKeyOf(values)) : undefined;
  const before = (stands !== undefined && known.current.get(stands)) || null;
  const ownKind = kind === 'own' ? kindOfRecord(known.kinds, values.kind, before) : null;
  if (ownKind && 'reason' in ownKind) return ownKind.reason;
  const fault = ownKind ? normaliseOwnRecord(ownKind, values, before) : null;
  if (fault) return fault.reason;

  const named = recordIdOf(kind, values, addresses, known);
  const made = named === null ? madeOf(kind, domains, known, inFile) : null;
  const id = named ?? made;
  if (typeof id === 'string') return id;
  const twice = twiceInFile(kind, line, values, addresses, inFile);
  if (twice) return twice;
  const current = id === null ? undefined : known.current.get(id);
  const same =
    current !== undefined &&
    Object.entries(values).every(([field, text]) => {
      // Whether a record of an own kind is open, its state says.
      if (field === 'open' && kind === 'own') return true;
      return field === 'people'
        ? samePeople(text, current.people ?? '', known, rulebook)
        : sameText(field, text, current[field] ?? '', rulebook);
    });
  return {
    line,
    action: id === null ? 'create' : same ? 'same' : 'update',
    id,
    values,
    ownerId: owner,
    accountName: reference ? reference : null,
    addresses,
    domains,
    people,
    ...(ownKind ? { ownKindId: ownKind.id } : {}),
    ...(made === null ? {} : { instead: current?.name ?? '' }),
  };
}

/** Id of the record that the line is about, null for a new one, or a reason. */
function recordIdOf(kind: RecordKind, values: Record<string, string>, addresses: readonly string[], known: Known): number | string | null {
  if (kind === 'contact' || kind === 'lead') {
    const owners = [...new Set(addresses.flatMap((address) => known.byKey.get(`@${address}`) ?? []))];
    if (owners.length > 1)
      return `Its addresses belong to ${owners.length} different ${kind}s already: merge those first, or leave all addresses but one out.`;
    if (owners[0] !== undefined) return owners[0];
    return addresses.length > 0 ? null : (known.byKey.get(nameKey(kind, values)) ?? null);
  }
  if (hasCode(kind) && values.code) return known.byKey.get(codeKeyOf(values)) ?? null;
  // Cases of the same name are told apart by their numbers alone.
  if (kind === 'own') return null;
  return known.byKey.get(nameKey(kind, values)) ?? null;
}

/**
 * The account that Fulvet created from mail for the domain of a line, whatever it was called: the file knows better what it is, and a second
 * account of that domain would leave every stranger there in doubt. One that a line of the file names is not meant.
 */
function madeOf(kind: RecordKind, domains: readonly string[], known: Known, inFile: FileContext): number | null {
  if (kind !== 'account') return null;
  const [id, ...others] = [...new Set(domains.flatMap((domain) => known.made.get(domain) ?? []))];
  if (id === undefined || others.length > 0 || inFile.taken.has(id)) return null;
  if (inFile.accountNames.has((known.current.get(id)?.name ?? '').toLowerCase())) return null;
  inFile.taken.add(id);
  return id;
}

function nameKey(kind: RecordKind, values: Record<string, string>): string {
  const beside = kind === 'lead' ? values.company : kind === 'account' ? '' : values.account;
  return `${values.name ?? ''}\n${beside ?? ''}`.toLowerCase();
}

const hasCode = (kind: RecordKind): boolean => kind === 'deal' || kind === 'own';

const codeKeyOf = (values: Readonly<Record<string, string>>): string => `#${(values.code ?? '').toLowerCase()}`;

function twiceInFile(
  kind: RecordKind,
  line: number,
  values: Record<string, string>,
  addresses: readonly string[],
  inFile: FileContext,
): string | null {
  const keys =
    addresses.length > 0 && kind !== 'own'
      ? addresses.map((address) => `@${address}`)
      : hasCode(kind) && values.code
        ? [codeKeyOf(values)]
        : kind === 'own'
          ? []
          : [nameKey(kind, values)];
  for (const key of keys) {
    const earlier = inFile.seen.get(key);
    if (earlier !== undefined) return `It is the same ${nounOf(kind)} as in line ${earlier}. Put them into one line.`;
  }
  for (const key of keys) inFile.seen.set(key, line);
  return null;
}

/** A person may be named by any of their addresses. */
function samePeople(text: string, current: string, known: Known, rulebook: CompiledRulebook): boolean {
  const ids = (list: string): string =>
    [
      ...new Set(
        list
          .split(';')
          .map((part) => addressKey(part.trim(), { tagsTellApart: rulebook.tagsTellApart })?.key ?? '')
          .filter(Boolean)
          .map((key) => JSON.stringify(known.people.get(key) ?? key)),
      ),
    ]
      .sort()
      .join();
  return ids(text) === ids(current);
}

function sameText(field: string, text: string, current: string, rulebook: CompiledRulebook): boolean {
  if (field === 'emails' || field === 'domains') {
    const normal = (list: string): string =>
      list
        .split(';')
        .map((part) =>
          field === 'domains'
            ? domainToAscii(part.trim())
            : (addressKey(part.trim(), { tagsTellApart: rulebook.tagsTellApart })?.key ?? ''),
        )
        .filter(Boolean)
        .sort()
        .join(';');
    return normal(text) === normal(current);
  }
  if (field === 'owner' || field === 'account' || field === 'parent') return text.toLowerCase() === current.toLowerCase();
  if (field === 'amount') return Number(text || Number.NaN) === Number(current || Number.NaN) || text === current;
  return text === current;
}

const userRow = z.object({ id: z.number(), email: z.string() });

const accountRow = z.object({ id: z.number(), name: z.string() });

const personAddressRow = z.object({ kind: z.enum(['lead', 'contact']), id: z.number(), address: z.string(), name: z.string() });

const createdDomainRow = z.object({ domain: z.string(), id: z.number() });

async function loadKnown(tx: Tx, kind: RecordKind, rulebook: CompiledRulebook): Promise<Known> {
  const users = await manyRowsOf(tx, userRow, sql`SELECT id, lower(email) AS email FROM users`);
  const accounts = await manyRowsOf(tx, accountRow, sql`SELECT id, lower(name) AS name FROM accounts`);
  const people = await manyRowsOf(
    tx,
    personAddressRow,
    sql`SELECT a.kind, a.person_id AS id, a.address, coalesce(c.name, l.name, '') AS name FROM person_addresses a
    LEFT JOIN contacts c ON a.kind = 'contact' AND c.id = a.person_id LEFT JOIN leads l ON a.kind = 'lead' AND l.id = a.person_id ORDER BY a.kind DESC`,
  );
  const made = await manyRowsOf(
    tx,
    createdDomainRow,
    sql`SELECT d.domain, a.id FROM accounts a JOIN account_domains d ON d.account_id = a.id WHERE ${kind} = 'account' AND a.origin_email_id IS NOT NULL AND a.origin_rule IS DISTINCT FROM ${BY_HAND}
      AND NOT EXISTS (SELECT FROM record_changes r WHERE r.kind = 'account' AND r.record_id = a.id AND r.user_id IS NOT NULL)`,
  );
  const current = await currentValues(tx, kind);
  const byKey = new Map<string, number>();
  for (const [id, values] of current) {
    byKey.set(nameKey(kind, values), id);
    if (values.code) byKey.set(codeKeyOf(values), id);
  }
  for (const row of people) if (row.kind === kind) byKey.set(`@${rulebook.personKey(row.address)}`, row.id);
  return {
    users: new Map(users.map((row) => [row.email, row.id])),
    accounts: new Map(accounts.map((row) => [row.name, row.id])),
    people: new Map(people.map((row) => [row.address, { kind: row.kind, id: row.id, name: row.name }])),
    current,
    byKey,
    made: new Map(made.map((row) => [row.domain, row.id])),
  };
}
