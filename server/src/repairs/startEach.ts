import { isRefusal } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import { rowsOf, idRow } from '../base/db/rows';
import { mayBePersonIn } from '../base/db/personKey';
import type { eachRecord, RecordKind } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { Tx } from '../base/db/database';
import { BY_HAND } from '../records/byHand';
import { editRecord } from '../records/editRecord';
import { tableOf } from '../records/kinds';
import { accountOf } from './accountOf';
import type { Started } from './started';

type Each = z.output<typeof eachRecord>;
type Entry = Each['entries'][number];

/** Kinds of records that keep from which email they came. */
const KNOWS_ORIGIN: ReadonlySet<RecordKind> = new Set(['contact', 'lead', 'account', 'own']);

/** Creates one record for each entry, or takes the one that it names; the emails of an entry's addresses are filed under it. */
export async function startEach(
  tx: Tx,
  userId: number,
  each: Each,
  { emails, rulebook, started }: { emails: readonly number[]; rulebook: CompiledRulebook; started: Started },
): Promise<Refusal | null> {
  for (const entry of each.entries) {
    const { addresses, file } = entry;
    if (file) {
      started.file.push({ ...file, addresses });
      continue;
    }
    const record = await startEntry(tx, userId, each, entry, { origin: await firstWith(tx, emails, addresses), rulebook, started });
    if (isRefusal(record)) return record;
    started.file.push({ ...record, addresses });
  }
  return null;
}

async function startEntry(
  tx: Tx,
  userId: number,
  { kind, values: common }: Each,
  { values: own, newAccount }: Entry,
  { origin, rulebook, started }: { origin: number | null; rulebook: CompiledRulebook; started: Started },
): Promise<{ kind: RecordKind; id: number } | Refusal> {
  const values = { ...common, ...own };
  if (newAccount) {
    const account = await accountOf(tx, userId, newAccount, origin, started);
    if (isRefusal(account)) return account;
    values.account = newAccount.name;
  }
  // What was created for another entry of this step is there already.
  const same = started.records.find((record) => kind === 'account' && record.kind === kind && isSameName(record.name, values.name));
  if (same) return { kind, id: same.id };
  const made = await editRecord(tx, userId, kind, null, values, rulebook);
  if (isRefusal(made)) return made;
  if (KNOWS_ORIGIN.has(kind))
    await tx.execute(sql`UPDATE ${tableOf(kind)} SET origin_email_id = ${origin}, origin_rule = ${BY_HAND} WHERE id = ${made.id}`);
  started.records.push({ kind, id: made.id, name: made.name });
  started.each.push(made.id);
  return { kind, id: made.id };
}

const isSameName = (name: string, other: string | undefined): boolean => name.toLowerCase() === other?.trim().toLowerCase();

/** The first of some emails in which any of these addresses takes part. */
async function firstWith(tx: Tx, emails: readonly number[], addresses: readonly string[]): Promise<number | null> {
  const rows = await rowsOf(
    tx,
    idRow,
    sql`SELECT e.id FROM emails e WHERE e.id = ANY(${sql.param([...emails])}::bigint[])
      AND EXISTS (SELECT FROM participants p WHERE p.email_id = e.id AND ${mayBePersonIn(sql`p.address`, sql`${sql.param([...addresses])}::text[]`)}) ORDER BY e.sent_at, e.id LIMIT 1`,
  );
  return rows[0]?.id ?? null;
}
