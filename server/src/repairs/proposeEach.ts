import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { containing } from '../base/db/like';
import { recordKind } from '@fulvet/contract';
import type { EachProposal, Outsider, RecordKind } from '@fulvet/contract';
import { alikeNames, eachGroups, wordsToLookUp } from '@fulvet/core';
import type { CompiledRulebook, EachGroup } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { PEOPLE_OF } from '../records/kinds';
import type { KindWithPeople } from '../records/kinds';
import { outsidersOf } from '../records/outsiders';

type Group = EachGroup<Outsider>;
type Alike = EachProposal['alike'][number];

/** Of the records that a group might be, so many are shown. */
const MOST_ALIKE = 5;
/** So many records with a word in their name are compared. */
const MOST_COMPARED = 50;

const UNFIT: Record<NonNullable<Group['unfit']>, string> = {
  'kept out': 'is kept out',
  machine: 'an automatic sender',
  role: 'a role address, not a person',
  'public provider': 'at a public provider, which tells no company',
};

/**
 * One record for each external person or company of some emails, as it might begin: first those for which there may be a record already, then the others, at
 * the end those for which none is proposed.
 */
export async function proposeEach(
  tx: Tx,
  rulebook: CompiledRulebook,
  { emails, per, kind, of }: { emails: readonly number[]; per: 'person' | 'company'; kind: RecordKind; of: string | undefined },
): Promise<{ entries: EachProposal[]; left: number }> {
  const { people, left } = await outsidersOf(tx, emails, rulebook);
  const groups = eachGroups(people, kind, per);
  const counts = await emailsOf(tx, emails, groups);
  const alike = await alikeOf(tx, groups, kind, of);
  const entries = groups.map((group): EachProposal => ({
    key: group.key,
    name: group.name,
    emails: counts.get(group.key) ?? 0,
    people: group.people,
    account: group.account,
    domain: group.domain,
    alike: (alike.get(group.key) ?? []).slice(0, MOST_ALIKE),
    unfit: group.unfit === null ? null : UNFIT[group.unfit],
  }));
  const rank = (entry: EachProposal): number => (entry.unfit !== null ? 2 : entry.alike.length > 0 ? 0 : 1);
  return { entries: entries.sort((one, other) => rank(one) - rank(other)), left };
}

const countRow = z.object({ key: z.string(), n: z.number() });

async function emailsOf(tx: Tx, emails: readonly number[], groups: readonly Group[]): Promise<Map<string, number>> {
  const members = groups.flatMap(({ key, people }) => people.map(({ address }) => ({ key, address })));
  const rows = await rowsOf(
    tx,
    countRow,
    sql`SELECT g.key, count(DISTINCT p.email_id)::int AS n FROM json_to_recordset(${JSON.stringify(members)}::json) AS g(key text, address text)
      JOIN participants p ON p.address = g.address AND p.email_id = ANY(${sql.param([...emails])}::bigint[]) GROUP BY 1`,
  );
  return new Map(rows.map(({ key, n }) => [key, n]));
}

/** By group, the records of the kind that may be what would be created. */
async function alikeOf(tx: Tx, groups: readonly Group[], kind: RecordKind, of: string | undefined): Promise<Map<string, Alike[]>> {
  const found = new Map<string, Alike[]>();
  const add = (key: string, more: readonly Alike[]): void => {
    const known = found.get(key) ?? [];
    found.set(key, [...known, ...more.filter((item) => !known.some((it) => it.kind === item.kind && it.id === item.id))]);
  };
  if (kind === 'deal' || kind === 'own') for (const [key, item] of await openOf(tx, groups, kind, of)) add(key, [item]);
  else {
    for (const { key, people, account } of groups) {
      if (kind === 'account') {
        if (account) add(key, [{ kind, ...account, detail: '', because: 'has this domain' }]);
        else
          for (const { accounts } of people)
            add(
              key,
              accounts.map((item): Alike => ({ kind, ...item, detail: '', because: 'shares this domain' })),
            );
      } else for (const { record, address } of people) if (record) add(key, [{ ...record, detail: address, because: 'has this address' }]);
    }
    for (const [key, items] of await calledAlike(tx, groups, kind)) add(key, items);
  }
  return found;
}

const namedRow = z.object({ key: z.string(), kind: recordKind, id: z.number(), name: z.string() });

/** Records of almost the same name: people among contacts and leads, companies among accounts. */
async function calledAlike(tx: Tx, groups: readonly Group[], kind: RecordKind): Promise<Map<string, Alike[]>> {
  const among: RecordKind[] = kind === 'account' ? ['account'] : ['contact', 'lead'];
  const words = groups.flatMap(({ key, name }) =>
    wordsToLookUp(name).flatMap((word) => among.map((kindAmong) => ({ key, kind: kindAmong, pattern: containing(word) }))),
  );
  const rows = await rowsOf(
    tx,
    namedRow,
    sql`SELECT DISTINCT w.key, r.kind, r.id, r.name FROM json_to_recordset(${JSON.stringify(words)}::json) AS w(key text, kind text, pattern text)
      CROSS JOIN LATERAL fulvet_records_like(w.kind, w.pattern, ${MOST_COMPARED}) l JOIN records r ON r.kind = w.kind AND r.id = l.id`,
  );
  return new Map(
    groups.map(({ key, name }) => [
      key,
      alikeNames(
        name,
        rows.filter((row) => row.key === key),
      ).map(({ kind: its, id, name: called }): Alike => ({ kind: its, id, name: called, detail: its, because: 'almost the same name' })),
    ]),
  );
}

const openRow = z.object({ key: z.string(), id: z.number(), name: z.string(), detail: z.string(), people: z.number() });

/** Open deals, or open records of an own kind, of the account or of the people, those with most of them first. */
async function openOf(tx: Tx, groups: readonly Group[], kind: KindWithPeople, of: string | undefined): Promise<[string, Alike][]> {
  const members = groups.flatMap(({ key, account, people }) => [
    ...(account ? [{ key, account: account.id }] : []),
    ...people.flatMap(({ record }) => (record ? [{ key, kind: record.kind, person: record.id }] : [])),
  ]);
  const records =
    kind === 'deal'
      ? sql`SELECT d.id, d.name, concat_ws(' · ', d.code, nullif(d.stage, '')) AS detail, d.account_id, d.created_at FROM deals d WHERE d.open`
      : sql`SELECT o.id, o.name, o.code || ' · ' || o.state AS detail, o.account_id, o.created_at FROM own_records o JOIN own_kinds k ON k.id = o.kind_id WHERE o.open AND k.key = ${of ?? ''}`;
  const people = PEOPLE_OF[kind];
  const rows = await rowsOf(
    tx,
    openRow,
    sql`WITH m AS MATERIALIZED (SELECT * FROM json_to_recordset(${JSON.stringify(members)}::json) AS m(key text, account bigint, kind text, person bigint)),
      hit AS (SELECT m.key, r.id, 0 AS people FROM m JOIN (${records}) r ON r.account_id = m.account
        UNION ALL SELECT m.key, p.${people.id}, 1 FROM m JOIN ${people.table} p ON p.kind = m.kind AND p.person_id = m.person)
      SELECT h.key, r.id, r.name, r.detail, sum(h.people)::int AS people FROM hit h JOIN (${records}) r ON r.id = h.id
      GROUP BY h.key, r.id, r.name, r.detail, r.created_at ORDER BY 5 DESC, r.created_at DESC, r.id`,
  );
  return rows.map(({ key, id, name, detail, people: n }) => [
    key,
    { kind, id, name, detail, because: n > 0 ? 'is open with them' : 'is open with their account' },
  ]);
}
