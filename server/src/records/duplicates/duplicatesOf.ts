import { z } from 'zod';
import { idRow, rowsOf } from '../../base/db/rows';
import type { DuplicatesPage } from '@fulvet/contract';
import { findDuplicates, LIKELY } from '@fulvet/core';
import type { CompiledRulebook, DuplicatePair, Linkable, LinkEvidence } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { setImmediate as giveWay } from 'node:timers/promises';
import type { Database, Tx } from '../../base/db/database';
import { RECORD_FIELDS } from '../fields';
import { ownFields } from '../ownFields';
import { currentValues } from '../currentValues';
import { mailFigures } from '../mailFigures';

export type MergeableKind = 'contact' | 'lead' | 'account';

/** Pairs that are asked about more closely: whether both took part in one email. */
const MOST_ASKED = 2000;
/** What it speaks against two records being one that both take part in one email, in bits. */
const TOGETHER = 6;

/** Pairs of records that are likely one and that no one has refused. Others are served while it compares. */
export async function duplicatesOf(
  database: Database,
  userId: number,
  kind: MergeableKind,
  limit: number,
  rulebook: CompiledRulebook,
): Promise<DuplicatesPage> {
  const { records, refused } = await database.as(userId, async (tx) => ({
    records: await linkables(tx, kind),
    refused: await refusals(tx, kind),
  }));
  const options = {
    kind: kind === 'account' ? ('company' as const) : ('person' as const),
    isPublicProvider: (domain: string) => rulebook.isPublicProvider(domain),
  };
  const work = findDuplicates(records, options);
  let step = work.next();
  while (!step.done) {
    await giveWay();
    step = work.next();
  }
  const proposed = step.value.filter((pair) => !refused.has(`${pair.one} ${pair.other}`));
  return database.as(userId, async (tx) => {
    const apart = kind === 'account' ? new Set<string>() : await writtenTogether(tx, kind, proposed.slice(0, MOST_ASKED));
    const pairs = proposed.filter((pair) => !apart.has(`${pair.one} ${pair.other}`) || pair.score - TOGETHER >= LIKELY);
    return { ...(await shown(tx, kind, pairs.slice(0, limit))), total: pairs.length, compared: records.length };
  });
}

const accountDomainRow = z.object({
  id: z.number(),
  name: z.string(),
  addresses: z.array(z.string()),
  domains: z.array(z.string()),
  phones: z.array(z.string()),
  account_id: z.number().nullable(),
});

async function linkables(tx: Tx, kind: MergeableKind): Promise<Linkable[]> {
  const rows = await rowsOf(
    tx,
    accountDomainRow,
    kind === 'account'
      ? sql`SELECT a.id, a.name, '{}'::text[] AS addresses, ARRAY(SELECT domain FROM account_domains d WHERE d.account_id = a.id) AS domains, '{}'::text[] AS phones, a.parent_id AS account_id FROM accounts a ORDER BY a.id`
      : sql`SELECT t.id, t.name, coalesce(p.addresses, '{}') AS addresses, '{}'::text[] AS domains, t.phones, ${kind === 'contact' ? sql`t.account_id` : sql`NULL::bigint AS account_id`} FROM ${sql.identifier(`${kind}s`)} t
          LEFT JOIN (SELECT person_id, array_agg(address) AS addresses FROM person_addresses WHERE kind = ${kind} GROUP BY 1) p ON p.person_id = t.id ORDER BY t.id`,
  );
  return rows.map(({ account_id, ...row }) => ({ ...row, accountId: account_id }));
}

const refusedRow = z.object({ one_id: z.number(), other_id: z.number() });

async function refusals(tx: Tx, kind: MergeableKind): Promise<Set<string>> {
  const rows = await rowsOf(tx, refusedRow, sql`SELECT one_id, other_id FROM duplicate_refusals WHERE kind = ${kind}`);
  return new Set(rows.map((row) => `${row.one_id} ${row.other_id}`));
}

const pairRow = z.object({ one: z.number(), other: z.number() });

/** Pairs that both stand under one email: two people, unless much else speaks for one. */
async function writtenTogether(tx: Tx, kind: MergeableKind, pairs: readonly DuplicatePair[]): Promise<Set<string>> {
  if (pairs.length === 0) return new Set();
  const rows = await rowsOf(
    tx,
    pairRow,
    sql`
    SELECT n.one, n.other FROM json_to_recordset(${JSON.stringify(pairs.map(({ one, other }) => ({ one, other })))}::json) AS n(one bigint, other bigint)
    WHERE EXISTS (SELECT FROM filings f JOIN filings g ON g.email_id = f.email_id AND g.kind = ${kind} AND g.record_id = n.other WHERE f.kind = ${kind} AND f.record_id = n.one)`,
  );
  return new Set(rows.map((row) => `${row.one} ${row.other}`));
}

async function shown(tx: Tx, kind: MergeableKind, pairs: readonly DuplicatePair[]): Promise<Pick<DuplicatesPage, 'pairs' | 'labels'>> {
  const ids = [...new Set(pairs.flatMap((pair) => [pair.one, pair.other]))];
  const figures = await mailFigures(tx, kind, ids);
  const values = await currentValues(tx, kind, ids);
  const rows = await rowsOf(
    tx,
    idRow,
    sql`SELECT id FROM ${sql.identifier(`${kind}s`)} WHERE id = ANY(${sql.param(ids)}::bigint[]) AND origin_email_id IS NOT NULL`,
  );
  const created = new Set(rows.map((row) => row.id));
  const side = (id: number): DuplicatesPage['pairs'][number]['one'] => ({
    id,
    name: values.get(id)?.name ?? '',
    values: values.get(id) ?? {},
    emails: figures.get(id)?.emails ?? 0,
    createdByFulvet: created.has(id),
  });
  return {
    pairs: pairs.map((pair) => ({
      kind,
      one: side(pair.one),
      other: side(pair.other),
      likelihood: pair.likelihood,
      because: pair.evidence.map((evidence) => ({ text: words(evidence), weight: evidence.weight })),
    })),
    labels: Object.fromEntries([
      ...RECORD_FIELDS[kind].map((field) => [field.name, field.name.charAt(0).toUpperCase() + field.name.slice(1)] as const),
      ...(await ownFields(tx, kind)).map((field) => [field.key, field.label] as const),
    ]),
  };
}

function words({ fact, value }: LinkEvidence): string {
  switch (fact) {
    case 'name':
      return 'the same name';
    case 'similar name':
      return `similar names: ${value}`;
    case 'other name':
      return `other names: ${value}`;
    case 'phone':
      return 'the same telephone number';
    case 'local part':
      return `“${value}” before the @ in both`;
    case 'company':
      return 'at the same account';
    case 'other company':
      return 'at different accounts';
    case 'domain':
      return `both at ${value}`;
    case 'domain name':
      return `domains called ${value}`;
    case 'moved together':
      return `several people have the same name and address at ${value.replace(' ', ' and ')}: the company may have a new domain`;
    case 'family':
      return 'one is the parent of the other';
  }
}
