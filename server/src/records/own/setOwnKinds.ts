import type { OwnKindContent, ownKindContent, OwnKind, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { writeDown } from '../../base/audit';
import { rowsOf } from '../../base/db/rows';
import type { Tx } from '../../base/db/database';
import { notFound, Refusal } from '../../base/refusal';
import { keyOf } from '../keyOf';
import { ownKinds } from './ownKinds';

type Content = z.output<typeof ownKindContent>;

const countRow = z.object({ n: z.number() });

const RESERVED: readonly string[] = ['contact', 'lead', 'account', 'deal', 'own', 'contacts', 'leads', 'accounts', 'deals'];

/** Defines a kind of records. */
export async function createOwnKind(tx: Tx, user: User, content: Content): Promise<Refusal | null> {
  const known = await ownKinds(tx);
  const refused = refuseNames(content, known) ?? refuseStates(content);
  if (refused) return refused;
  const key = keyOf(content.singular, new Set([...RESERVED, ...known.map((kind) => kind.key)]));
  await tx.execute(sql`INSERT INTO own_kinds (key, singular, plural, icon, prefix, states, has_people, has_account, has_addresses, seen_by_teams, position)
    VALUES (${key}, ${content.singular}, ${content.plural}, ${content.icon}, ${content.prefix}, ${statesOf(content)}::jsonb, ${content.hasPeople}, ${content.hasAccount}, ${content.hasAddresses},
      ${sql.param(content.seenByTeams)}::bigint[], ${known.length})`);
  await writeDown(tx, user, { kind: 'settings', about: `Defined the kind of records ${content.singular}` });
  return null;
}

/** Changes a kind. Its records follow states that are renamed, and open or close with them; a state in which records are cannot go. */
export async function editOwnKind(tx: Tx, user: User, id: number, content: Content): Promise<Refusal | null> {
  const known = await ownKinds(tx);
  const before = known.find((kind) => kind.id === id);
  if (!before) return notFound('kind of records');
  const refused =
    refuseNames(
      content,
      known.filter((kind) => kind !== before),
    ) ??
    refuseStates(content) ??
    (await refuseInUse(tx, before, content));
  if (refused) return refused;
  await tx.execute(sql`UPDATE own_kinds SET singular = ${content.singular}, plural = ${content.plural}, icon = ${content.icon}, prefix = ${content.prefix}, states = ${statesOf(content)}::jsonb,
    has_people = ${content.hasPeople}, has_account = ${content.hasAccount}, has_addresses = ${content.hasAddresses}, seen_by_teams = ${sql.param(content.seenByTeams)}::bigint[] WHERE id = ${id}`);
  const moved = JSON.stringify(content.states.map(({ name, open, was }) => ({ was: was ?? name, name, open })));
  await tx.execute(sql`
    WITH moved AS (UPDATE own_records r SET state = m.name, open = m.open, closed_on = CASE WHEN m.open THEN NULL ELSE coalesce(r.closed_on, current_date) END
        FROM (SELECT o.id, n.name, n.open, o.state AS was FROM own_records o JOIN json_to_recordset(${moved}::json) AS n(was text, name text, open boolean) ON lower(n.was) = lower(o.state) WHERE o.kind_id = ${id}) m
        WHERE r.id = m.id AND (r.state, r.open) IS DISTINCT FROM (m.name, m.open) RETURNING r.id, m.was, m.name)
    INSERT INTO record_changes (kind, record_id, user_id, field, before, after) SELECT 'own', m.id, ${user.id}::bigint, 'state', m.was, m.name FROM moved m WHERE m.was <> m.name`);
  await writeDown(tx, user, { kind: 'settings', about: `Changed the kind of records ${content.singular}` });
  return null;
}

/** Removes a kind that has no records, with its own fields. */
export async function removeOwnKind(tx: Tx, user: User, id: number): Promise<Refusal | null> {
  const kind = (await ownKinds(tx)).find((item) => item.id === id);
  if (!kind) return notFound('kind of records');
  const [row] = await rowsOf(tx, countRow, sql`SELECT count(*)::int AS n FROM own_records WHERE kind_id = ${id}`);
  const count = row?.n ?? 0;
  if (count > 0)
    return new Refusal(
      'conflict',
      'in-use',
      `There ${count === 1 ? `is a record of this kind` : `are ${count} records of this kind`}. A kind stays as long as it has records; nothing was changed.`,
    );
  await tx.execute(sql`DELETE FROM record_views WHERE record_kind = 'own' AND query ~ ${`(^|&)of=${kind.key}(&|$)`}`);
  await tx.execute(sql`DELETE FROM own_kinds WHERE id = ${id}`);
  await writeDown(tx, user, { kind: 'settings', about: `Removed the kind of records ${kind.singular}` });
  return null;
}

const statesOf = ({ states }: OwnKindContent): string => JSON.stringify(states.map(({ name, open }) => ({ name, open })));

function refuseNames({ singular, plural, prefix }: Content, others: readonly OwnKind[]): Refusal | null {
  const same = (first: string, second: string): boolean => first.toLowerCase() === second.toLowerCase();
  for (const [field, name] of Object.entries({ singular, plural })) {
    if (RESERVED.includes(name.toLowerCase()))
      return new Refusal('conflict', 'taken', `“${name}” is a kind that is there already. Choose another name.`, { [field]: 'is taken' });
    const other = others.find((kind) => same(kind.singular, name) || same(kind.plural, name));
    if (other)
      return new Refusal('conflict', 'taken', `There is a kind “${other.singular}” already. Choose another name.`, { [field]: 'is taken' });
  }
  const withPrefix = others.find((kind) => same(kind.prefix, prefix));
  return withPrefix
    ? new Refusal(
        'conflict',
        'taken',
        `The numbers of ${withPrefix.plural.toLowerCase()} begin with ${prefix} already. Choose another prefix.`,
        {
          prefix: 'is taken',
        },
      )
    : null;
}

function refuseStates({ states }: Content): Refusal | null {
  const names = states.map((state) => state.name.toLowerCase());
  const twice = names.find((name, at) => names.indexOf(name) !== at);
  if (twice !== undefined)
    return new Refusal('unfit', 'bad-input', `Two states are called “${twice}”. Give each its own name.`, { states: 'has a name twice' });
  return states.some((state) => state.open)
    ? null
    : new Refusal('unfit', 'bad-input', 'No state is open. A record has to begin in one that is.', { states: 'has none that is open' });
}

const usedRow = z.object({ state: z.string(), n: z.number() });

async function refuseInUse(tx: Tx, { id, prefix, ...before }: OwnKind, content: Content): Promise<Refusal | null> {
  const kept = new Set(content.states.map(({ name, was }) => (was ?? name).toLowerCase()));
  const used = await rowsOf(tx, usedRow, sql`SELECT state, count(*)::int AS n FROM own_records WHERE kind_id = ${id} GROUP BY state`);
  const gone = used.find(({ state }) => !kept.has(state.toLowerCase()));
  if (gone)
    return new Refusal(
      'conflict',
      'in-use',
      `${gone.n} ${gone.n === 1 ? before.singular.toLowerCase() : before.plural.toLowerCase()} ${gone.n === 1 ? 'is' : 'are'} “${gone.state}”. Move them first; nothing was changed.`,
      { states: 'is in use' },
    );
  if (used.length > 0 && content.prefix !== prefix)
    return new Refusal('conflict', 'in-use', `Numbers that begin with ${prefix} are given already, and stay. Keep the prefix.`, {
      prefix: 'is in use',
    });
  return null;
}
