import {
  accounts as accountsTable,
  filings,
  pins as pinsTable,
  grants as grantsTable,
  accessRequests,
  gestures as gesturesTable,
  mailboxFolders,
  contacts as contactsTable,
  deals as dealsTable,
  contactAccounts,
  accountDomains,
  ownRecords,
  personAddresses,
} from '../../base/db/schema';
import { z } from 'zod';
import { idRow, rowsOf } from '../../base/db/rows';
import { Refusal, notFound } from '../../base/refusal';
import type { User } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { sql, eq, and, ne } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import type { Concerned } from '../../base/concerned';
import { takeMailLock } from '../../base/db/mailLock';
import { setParent, writeRow } from '../writeRecord';
import { PEOPLE_OF } from '../kinds';
import { ledTo } from '../mailLedTo';
import { ownFields } from '../ownFields';
import { currentValues } from '../currentValues';
import { noteChanges } from '../recordLog';
import { readAddresses, readDomains } from '../readValues';
import { idOfMember } from '../idsByName';
import type { MergeableKind } from './duplicatesOf';

/** Rows as they stood, by table: all that a merge touches. */
export type Stood = Record<string, unknown[]>;

interface Touched {
  table: string;
  where: SQL;
}

/** Every row that names one of the two records, for keeping and for putting back. */
export function touchedBy(kind: MergeableKind, keptId: number, goneId: number): Touched[] {
  const both = sql`(${keptId}::bigint, ${goneId}::bigint)`;
  const named: Touched[] = [
    { table: 'filings', where: sql`kind = ${kind} AND record_id IN ${both}` },
    { table: 'pins', where: sql`kind = ${kind} AND record_id IN ${both}` },
    { table: 'grants', where: sql`record_kind = ${kind} AND record_id IN ${both}` },
    { table: 'access_requests', where: sql`record_kind = ${kind} AND record_id IN ${both}` },
    { table: 'gestures', where: sql`target = ${kind} AND record_id IN ${both}` },
    { table: 'activity_records', where: sql`kind = ${kind} AND record_id IN ${both}` },
    { table: 'task_records', where: sql`kind = ${kind} AND record_id IN ${both}` },
    { table: 'booking_links', where: sql`kind = ${kind} AND record_id IN ${both}` },
    { table: 'mailbox_folders', where: sql`file_as = ${kind} AND file_record_id IN ${both}` },
    { table: `${kind}s`, where: sql`id IN ${both}` },
  ];
  if (kind === 'account')
    return [
      ...named,
      { table: 'account_domains', where: sql`account_id IN ${both}` },
      { table: 'contact_accounts', where: sql`account_id IN ${both}` },
      { table: 'contacts', where: sql`account_id IN ${both}` },
      { table: 'deals', where: sql`account_id IN ${both}` },
      { table: 'own_records', where: sql`account_id IN ${both}` },
    ];
  const people: Touched[] = [
    { table: 'person_addresses', where: sql`kind = ${kind} AND person_id IN ${both}` },
    { table: 'deal_people', where: sql`kind = ${kind} AND person_id IN ${both}` },
    { table: 'own_record_people', where: sql`kind = ${kind} AND person_id IN ${both}` },
  ];
  return kind === 'contact'
    ? [...named, ...people, { table: 'contact_accounts', where: sql`contact_id IN ${both}` }]
    : [...named, ...people];
}

/** Columns that are put back of tables whose other columns change for other reasons. */
export const POINTERS: Record<string, string> = {
  pins: 'record_id',
  grants: 'record_id',
  access_requests: 'record_id',
  gestures: 'record_id',
  activity_records: 'record_id',
  task_records: 'record_id',
  booking_links: 'record_id',
  mailbox_folders: 'file_record_id',
  contacts: 'account_id',
  deals: 'account_id',
  own_records: 'account_id',
};

/**
 * Merges one record into another, in the worker's transaction: fields that are named come from the one that goes, lists are united, and all that
 * referred to it refers to the other. What stood is kept, so that the two can be parted exactly.
 */
export async function mergeRecords(
  tx: Tx,
  user: User,
  kind: MergeableKind,
  keptId: number,
  { gone: goneId, take }: { gone: number; take: readonly string[] },
  rulebook: CompiledRulebook,
): Promise<{ id: number; mail: Concerned } | Refusal> {
  await takeMailLock(tx);
  if (keptId === goneId)
    return new Refusal('unfit', 'bad-input', 'A record cannot be merged into itself. Choose two.', { gone: 'is the same' });
  const both = await currentValues(tx, kind, [keptId, goneId]);
  const [kept, gone] = [both.get(keptId), both.get(goneId)];
  if (!kept || !gone) return notFound(kind);
  const stood = await standingRows(tx, kind, keptId, goneId);
  const values = mergedValues(kind, kept, gone, take);
  await pointTo(tx, kind, keptId, goneId);
  await tx.execute(sql`DELETE FROM ${sql.identifier(`${kind}s`)} WHERE id = ${goneId}`);
  const account = kind === 'account' ? values.parent : values.account;
  const own = await ownFields(tx, kind);
  const row = {
    line: 0,
    action: 'update' as const,
    id: keptId,
    values,
    ownerId: await idOfMember(tx, values.owner ?? ''),
    accountName: account && (kind !== 'account' || account.toLowerCase() !== (values.name ?? '').toLowerCase()) ? account : null,
    addresses: listOf(readAddresses(values.emails ?? '', rulebook)),
    domains: listOf(readDomains(values.domains ?? '', rulebook)),
    people: [],
  };
  await writeRow(tx, kind, row, own);
  if (kind === 'account') {
    await setParent(tx, row);
    await tx
      .update(accountsTable)
      .set({ parentId: null })
      .where(and(eq(accountsTable.id, keptId), eq(accountsTable.parentId, keptId)));
  }
  await noteChanges(tx, user.id, kind, keptId, [{ field: 'record', before: gone.name ?? '', after: `merged into ${values.name ?? ''}` }]);
  const rows = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO merges (kind, kept_id, gone_id, gone_name, user_id, stood) VALUES (${kind}, ${keptId}, ${goneId}, ${gone.name ?? ''}, ${user.id}, ${JSON.stringify(stood)}::jsonb) RETURNING id`,
  );
  return {
    id: rows[0]?.id ?? 0,
    mail: { ...ledTo(kind, [kept, gone]), records: { kind, ids: [keptId, goneId] } },
  };
}

const listOf = (read: string[] | string): string[] => (typeof read === 'string' ? [] : read);

const UNITED: ReadonlySet<string> = new Set(['emails', 'domains', 'phone']);

function mergedValues(
  kind: MergeableKind,
  kept: Record<string, string>,
  gone: Record<string, string>,
  take: readonly string[],
): Record<string, string> {
  const values: Record<string, string> = {};
  for (const field of new Set([...Object.keys(kept), ...Object.keys(gone)])) {
    const mine = kept[field] ?? '';
    const theirs = gone[field] ?? '';
    if (UNITED.has(field)) values[field] = [...new Set([...mine.split(';'), ...theirs.split(';')])].filter(Boolean).join(';');
    // What only one of them says is kept.
    else values[field] = take.includes(field) ? theirs : mine === '' ? theirs : mine;
  }
  if (kind === 'account' && values.parent?.toLowerCase() === (gone.name ?? '').toLowerCase()) values.parent = '';
  return values;
}

const wholeRow = z.object({ row: z.unknown() });

async function standingRows(tx: Tx, kind: MergeableKind, keptId: number, goneId: number): Promise<Stood> {
  const stood: Stood = {};
  for (const { table, where } of touchedBy(kind, keptId, goneId)) {
    const rows = await rowsOf(tx, wholeRow, sql`SELECT to_jsonb(t) AS row FROM ${sql.identifier(table)} t WHERE ${where}`);
    stood[table] = rows.map((row) => row.row);
  }
  const children =
    kind === 'account'
      ? await rowsOf(
          tx,
          wholeRow,
          sql`SELECT jsonb_build_object('id', id, 'parent_id', parent_id) AS row FROM accounts WHERE parent_id IN (${keptId}, ${goneId})`,
        )
      : null;
  stood.children = children?.map((row) => row.row) ?? [];
  return stood;
}

/** Lets all that names the record that goes name the other one; where both are named, once. */
async function pointTo(tx: Tx, kind: MergeableKind, keptId: number, goneId: number): Promise<void> {
  const twice = (table: string, key: SQL): SQL => sql`DELETE FROM ${sql.identifier(table)} t USING ${sql.identifier(table)} o WHERE ${key}`;
  await tx.execute(
    twice(
      'filings',
      sql`t.kind = ${kind} AND t.record_id = ${goneId} AND o.kind = ${kind} AND o.record_id = ${keptId} AND o.email_id = t.email_id`,
    ),
  );
  await tx
    .update(filings)
    .set({ recordId: keptId })
    .where(and(eq(filings.kind, kind), eq(filings.recordId, goneId)));
  await tx
    .update(pinsTable)
    .set({ recordId: keptId })
    .where(and(eq(pinsTable.kind, kind), eq(pinsTable.recordId, goneId)));
  await tx
    .update(grantsTable)
    .set({ recordId: keptId })
    .where(and(eq(grantsTable.recordKind, kind), eq(grantsTable.recordId, goneId)));
  await tx
    .update(accessRequests)
    .set({ recordId: keptId })
    .where(and(eq(accessRequests.recordKind, kind), eq(accessRequests.recordId, goneId)));
  await tx
    .update(gesturesTable)
    .set({ recordId: keptId })
    .where(and(eq(gesturesTable.target, kind), eq(gesturesTable.recordId, goneId)));
  await tx
    .update(mailboxFolders)
    .set({ fileRecordId: keptId })
    .where(and(eq(mailboxFolders.fileAs, kind), eq(mailboxFolders.fileRecordId, goneId)));
  for (const table of ['activity_records', 'task_records', 'booking_links'])
    await tx.execute(sql`UPDATE ${sql.identifier(table)} SET record_id = ${keptId} WHERE kind = ${kind} AND record_id = ${goneId}`);
  if (kind === 'account') {
    await tx.update(contactsTable).set({ accountId: keptId }).where(eq(contactsTable.accountId, goneId));
    await tx.update(dealsTable).set({ accountId: keptId }).where(eq(dealsTable.accountId, goneId));
    await tx.update(ownRecords).set({ accountId: keptId }).where(eq(ownRecords.accountId, goneId));
    await tx
      .update(accountsTable)
      .set({ parentId: keptId })
      .where(and(eq(accountsTable.parentId, goneId), ne(accountsTable.id, keptId)));
    await tx.update(contactAccounts).set({ accountId: keptId }).where(eq(contactAccounts.accountId, goneId));
    await tx.delete(accountDomains).where(eq(accountDomains.accountId, goneId));
    return;
  }
  for (const { table, id } of Object.values(PEOPLE_OF)) {
    await tx.execute(
      sql`DELETE FROM ${table} t USING ${table} o WHERE t.kind = ${kind} AND t.person_id = ${goneId} AND o.kind = ${kind} AND o.person_id = ${keptId} AND o.${id} = t.${id}`,
    );
    await tx.execute(sql`UPDATE ${table} SET person_id = ${keptId} WHERE kind = ${kind} AND person_id = ${goneId}`);
  }
  await tx.delete(personAddresses).where(and(eq(personAddresses.kind, kind), eq(personAddresses.personId, goneId)));
  if (kind === 'contact') await tx.update(contactAccounts).set({ contactId: keptId }).where(eq(contactAccounts.contactId, goneId));
}
