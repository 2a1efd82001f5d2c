import type { RecordKind } from '@fulvet/contract';
import { stringify } from 'csv-stringify/sync';
import ICAL from 'ical.js';
import type { Tx } from '../base/db/database';
import { RECORD_FIELDS } from './fields';
import { ownFields } from './ownFields';
import { currentValues } from './currentValues';
import type { RecordQuery } from './recordList';
import { recordList } from './recordList';

const LIST_PAGE = 500;

/** All records of a kind, of own kinds all or those of one, as CSV with the headers that the import understands. Cells that a spreadsheet would take for a formula are guarded by an apostrophe. */
export async function recordsAsCsv(tx: Tx, kind: RecordKind, of?: string): Promise<string> {
  const columns = [...RECORD_FIELDS[kind].map((field) => field.name), ...(await ownFields(tx, kind, of)).map((field) => field.key)];
  const rows = [...(await currentValues(tx, kind)).values()].filter((row) => of === undefined || row.kind === of);
  return stringify(
    rows.map((row) => columns.map((column) => row[column] ?? '')),
    { header: true, columns, escape_formulas: true },
  );
}

/** The records that a list finds, with the columns that it shows: its fields, what their mail comes to, and own fields. */
export async function listAsCsv(tx: Tx, kind: RecordKind, query: RecordQuery): Promise<string> {
  const own = await ownFields(tx, kind, query.of);
  const records = [];
  for (let offset = 0; ; offset += LIST_PAGE) {
    const page = await recordList(tx, kind, { ...query, offset, limit: LIST_PAGE });
    records.push(...page.records);
    if (page.records.length < LIST_PAGE) break;
  }
  const head = [
    'id',
    'name',
    kind === 'account' ? 'domains' : 'addresses',
    'account',
    'code',
    'stage',
    'open',
    'amount',
    'currency',
    'owner',
  ];
  const mail = ['emails', 'emails in', 'emails out', 'conversations', 'last email', 'last by', 'unanswered', 'unanswered since'];
  const rows = records.map((record) => [
    ...[record.id, record.name, record.addresses.join(';'), record.account?.name ?? '', record.code ?? '', record.stage ?? ''],
    ...[record.open === null ? '' : record.open ? 'yes' : 'no', record.amount ?? '', record.currency ?? '', record.owner ?? ''],
    ...[
      record.emails,
      record.emailsIn,
      record.emailsOut,
      record.conversations,
      record.lastEmailAt ?? '',
      record.lastBy ?? '',
      record.unanswered,
      record.unansweredSince ?? '',
    ],
    ...own.map((field) => record.own[field.key] ?? ''),
  ]);
  return stringify(rows, { header: true, columns: [...head, ...mail, ...own.map((field) => field.label)], escape_formulas: true });
}

/** All contacts as vCard 4 (RFC 6350). */
export async function contactsAsVcards(tx: Tx): Promise<string> {
  const rows = [...(await currentValues(tx, 'contact')).values()];
  return rows.map(vcard).join('\r\n') + (rows.length > 0 ? '\r\n' : '');
}

function vcard(row: Record<string, string>): string {
  const card = new ICAL.Component('vcard');
  card.addPropertyWithValue('version', '4.0');
  card.addPropertyWithValue('fn', row.name ?? '');
  for (const address of (row.emails ?? '').split(';').filter(Boolean)) card.addPropertyWithValue('email', address);
  if (row.account) card.addPropertyWithValue('org', row.account);
  if (row.title) card.addPropertyWithValue('title', row.title);
  for (const phone of (row.phone ?? '').split(';').filter(Boolean)) card.addPropertyWithValue('tel', phone);
  return card.toString();
}
