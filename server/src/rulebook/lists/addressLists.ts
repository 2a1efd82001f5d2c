import { addressLists as addressListsTable } from '../../base/db/schema';
import { z } from 'zod';
import { idRow, moment, rowsOf } from '../../base/db/rows';
import { Refusal, isRefusal, notFound } from '../../base/refusal';
import { containing } from '../../base/db/like';
import type { AddressListEntryRow, AddressListRow, Pasted, User } from '@fulvet/contract';
import { RULE_STEPS, leavesOf } from '@fulvet/core';
import type { Rulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { randomBytes } from 'node:crypto';
import { writeDown } from '../../base/audit';
import type { Tx } from '../../base/db/database';
import { noteStep } from '../../base/undoLog';
import { readPasted } from './readPasted';
import { entriesOf, undoList } from './undoList';
import type { ListChange } from './undoList';
import { PROVIDERS_LIST, ROLES_LIST } from './shippedLists';

type Actor = Pick<User, 'id' | 'name'>;

const PAGE = 500;
const DAYS = 30;

const addressListEntryRow = z.object({ id: z.string(), name: z.string(), note: z.string(), entries: z.number(), shipped: z.boolean() });

const coveredRow = z.object({ list_id: z.string(), took: z.number() });

/** Address lists with how large they are, what they took, and by which rules they are used; those that ship with content last. */
export async function addressLists(tx: Tx, rulebooks: readonly Rulebook[]): Promise<AddressListRow[]> {
  const rows = await rowsOf(
    tx,
    addressListEntryRow,
    sql`SELECT l.id, l.name, l.note, l.shipped, (SELECT count(*)::int FROM address_list_entries e WHERE e.list_id = l.id) AS entries FROM address_lists l ORDER BY l.shipped, lower(l.name)`,
  );
  const took = await rowsOf(
    tx,
    coveredRow,
    sql`${coveredMail(sql`true`)} SELECT k.list_id, count(DISTINCT c.email_id)::int AS took FROM covered c JOIN address_list_entries k ON k.id = c.entry_id GROUP BY 1`,
  );
  const byList = new Map(took.map((row) => [row.list_id, row.took]));
  return rows.map((row) => ({
    ...row,
    took: byList.get(row.id) ?? 0,
    usedBy: row.shipped ? [EVERY_RULEBOOK] : usersOf(row.id, rulebooks),
  }));
}

const EVERY_RULEBOOK = 'every rulebook';

/**
 * The emails of the last 30 days that each entry covers, as rows `entry_id, email_id` of `covered`. By the external domains, which are known
 * of every email: each is looked up with the domains above it.
 *
 * @param which entries, as a condition on `k`
 */
function coveredMail(which: SQL): SQL {
  return sql`WITH recent AS MATERIALIZED (SELECT e.id, x.domain FROM emails e, unnest(e.external_domains) AS x(domain) WHERE e.sent_at > now() - make_interval(days => ${DAYS})),
    above AS MATERIALIZED (SELECT n.domain, array_to_string(n.parts[i:], '.') AS name, i = 1 AS same
      FROM (SELECT domain, string_to_array(domain, '.') AS parts FROM (SELECT DISTINCT domain FROM recent) d) n, generate_series(1, cardinality(n.parts)) AS i),
    covered AS (SELECT k.id AS entry_id, r.id AS email_id FROM above a JOIN address_list_entries k ON k.kind = 'domain' AND k.value = a.name AND (a.same OR NOT k.exactly) JOIN recent r ON r.domain = a.domain WHERE ${which}
      UNION ALL SELECT k.id, r.id FROM address_list_entries k JOIN recent r ON r.domain = split_part(k.value, '@', 2) WHERE k.kind = 'address' AND ${which})`;
}

function usersOf(listId: string, rulebooks: readonly Rulebook[]): string[] {
  const names = rulebooks.flatMap((rulebook) =>
    RULE_STEPS.flatMap((step) =>
      rulebook[step].rules
        .filter((rule) =>
          [...leavesOf(rule.when)].some((leaf) => leaf.fact === 'participant' && leaf.test.is === 'inList' && leaf.test.list === listId),
        )
        .map((rule) => rule.name || rule.id),
    ),
  );
  return [...new Set(names)];
}

export async function createList(tx: Tx, user: Actor, name: string, note: string): Promise<string | Refusal> {
  const { rowCount } = await tx.execute(sql`SELECT FROM address_lists WHERE lower(name) = lower(${name})`);
  if (rowCount) return new Refusal('conflict', 'exists', `There is a list “${name}” already. Choose another name.`, { name: 'is taken' });
  const id = `list-${randomBytes(4).toString('hex')}`;
  await tx.insert(addressListsTable).values({ id, name, note, createdBy: user.id });
  await writeDown(tx, user, { kind: 'rules', about: `made the address list “${name}”` });
  return id;
}

const addressListRow = z.object({ name: z.string() });
const goneListRow = z.object({ name: z.string(), note: z.string() });

export async function deleteList(tx: Tx, user: Actor, id: string, rulebooks: readonly Rulebook[]): Promise<number | Refusal> {
  if (id === PROVIDERS_LIST || id === ROLES_LIST)
    return new Refusal('conflict', 'in-use', 'Every rulebook uses this list. Remove entries from it instead.');
  const users = usersOf(id, rulebooks);
  if (users.length > 0)
    return new Refusal(
      'conflict',
      'in-use',
      `The list is used by ${users.map((value) => `“${value}”`).join(', ')}. Change those rules first.`,
    );
  const before = await entriesOf(tx, id, null);
  const [gone] = await rowsOf(tx, goneListRow, sql`DELETE FROM address_lists WHERE id = ${id} RETURNING name, note`);
  if (!gone) return notFound('list');
  await writeDown(tx, user, { kind: 'rules', about: `deleted the address list “${gone.name}”` });
  return noteStep(tx, user.id, undoList, {
    summary: `Deleted the list “${gone.name}”`,
    payload: { list: id, name: gone.name, note: gone.note, added: [], before },
  });
}

const entryRow = z.object({
  value: z.string(),
  kind: z.enum(['address', 'domain', 'local']),
  until: z.string().nullable(),
  id: z.number(),
  note: z.string(),
  by: z.string().nullable(),
  took: z.number(),
  exactly: z.boolean(),
  coveredBy: z.string().nullable(),
  added_at: moment,
});

const tookRow = z.object({ entry_id: z.number(), took: z.number() });

const totalRow = z.object({ total: z.number() });

export async function addressListEntries(
  tx: Tx,
  listId: string,
  text: string,
  offset: number,
): Promise<{ entries: AddressListEntryRow[]; total: number } | Refusal> {
  const refused = await demandList(tx, listId);
  if (isRefusal(refused)) return refused;
  const like = containing(text.toLowerCase());
  const where = sql`k.list_id = ${listId} AND (${text} = '' OR lower(k.value || ' ' || k.note) LIKE ${like})`;
  const rows = await rowsOf(
    tx,
    entryRow,
    sql`
    SELECT k.id, k.kind, k.value, k.exactly, k.note, u.name AS by, k.added_at, k.until::text AS until, 0 AS took,
      (SELECT o.value FROM address_list_entries o WHERE o.list_id = k.list_id AND o.id <> k.id AND o.kind = 'domain' AND NOT o.exactly AND k.kind <> 'local'
        AND o.value IN (SELECT array_to_string(p.parts[i:], '.') FROM (SELECT string_to_array(CASE WHEN k.kind = 'address' THEN split_part(k.value, '@', 2) ELSE k.value END, '.') AS parts) p, generate_series(1, cardinality(p.parts)) AS i) LIMIT 1) AS "coveredBy"
    FROM address_list_entries k LEFT JOIN users u ON u.id = k.added_by WHERE ${where} ORDER BY k.kind DESC, k.value LIMIT ${PAGE} OFFSET ${offset}`,
  );
  const ids = rows.map((row) => row.id);
  const took = await rowsOf(
    tx,
    tookRow,
    sql`${coveredMail(sql`k.id = ANY(${sql.param(ids)}::bigint[])`)} SELECT entry_id, count(DISTINCT email_id)::int AS took FROM covered GROUP BY 1`,
  );
  const byEntry = new Map(took.map((row) => [row.entry_id, row.took]));
  const counted = await rowsOf(tx, totalRow, sql`SELECT count(*)::int AS total FROM address_list_entries k WHERE ${where}`);
  return {
    entries: rows.map(({ added_at, ...row }) => ({ ...row, took: byEntry.get(row.id) ?? 0, at: added_at })),
    total: counted[0]?.total ?? 0,
  };
}

/** Adds what was pasted, in any form; what could not be read is given back. */
export async function pasteEntries(
  tx: Tx,
  user: Actor,
  listId: string,
  { text, note, until }: { text: string; note: string; until: string | null },
): Promise<(Pasted & { undo: number | null }) | Refusal> {
  const refused = await demandList(tx, listId);
  if (isRefusal(refused)) return refused;
  const { read, unread } = readPasted(text, listId === ROLES_LIST ? 'locals' : 'domains');
  const inserted = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO address_list_entries (list_id, kind, value, exactly, note, added_by, until)
    SELECT ${listId}, kind, value, exactly, CASE WHEN note = '' THEN ${note} ELSE note END, ${user.id}::bigint, coalesce(until, ${until}::date)
    FROM json_to_recordset(${JSON.stringify(read)}::json) AS r(kind text, value text, exactly boolean, note text, until date) ON CONFLICT DO NOTHING RETURNING id`,
  );
  const added = inserted.length;
  const what = `added ${added === 1 ? '1 entry' : `${added} entries`} to`;
  const undo = await noteChange(tx, user, listId, what, { added: inserted.map(({ id }) => id), before: [] });
  return { added, known: read.length - added, unread: unread.slice(0, 100), undo: added > 0 ? undo : null };
}

export async function changeEntry(
  tx: Tx,
  user: Actor,
  listId: string,
  id: number,
  change: { note?: string | undefined; until?: string | null | undefined; exactly?: boolean | undefined },
): Promise<number | Refusal> {
  const before = await entriesOf(tx, listId, id);
  const { rowCount } =
    await tx.execute(sql`UPDATE address_list_entries SET note = coalesce(${change.note ?? null}, note), exactly = coalesce(${change.exactly ?? null}::boolean, exactly),
    until = ${change.until === undefined ? sql`until` : sql`${change.until}::date`} WHERE id = ${id} AND list_id = ${listId}`);
  if (!rowCount) return notFound('entry');
  return noteChange(tx, user, listId, 'changed an entry of', { added: [], before });
}

export async function removeEntry(tx: Tx, user: Actor, listId: string, id: number): Promise<number | Refusal> {
  const before = await entriesOf(tx, listId, id);
  const { rowCount } = await tx.execute(sql`DELETE FROM address_list_entries WHERE id = ${id} AND list_id = ${listId}`);
  if (!rowCount) return notFound('entry');
  return noteChange(tx, user, listId, 'took an entry off', { added: [], before });
}

/**
 * @param what as “added 3 entries to”; never what the entries say: they may name external people
 * @returns the step that undoes it
 */
async function noteChange(
  tx: Tx,
  user: Actor,
  listId: string,
  what: string,
  change: Pick<ListChange, 'added' | 'before'>,
): Promise<number> {
  const rows = await rowsOf(
    tx,
    addressListRow,
    sql`UPDATE address_lists SET changed_at = clock_timestamp() WHERE id = ${listId} RETURNING name`,
  );
  const name = rows[0]?.name ?? listId;
  await writeDown(tx, user, { kind: 'rules', about: `${what} the address list “${name}”` });
  const summary = `${what.charAt(0).toUpperCase()}${what.slice(1)} the list “${name}”`;
  return noteStep(tx, user.id, undoList, { summary, payload: { list: listId, name, note: null, ...change } });
}

export async function demandList(tx: Tx, id: string): Promise<Refusal | null> {
  const { rowCount } = await tx.execute(sql`SELECT FROM address_lists WHERE id = ${id}`);
  if (!rowCount) return notFound('list');
  return null;
}

const writtenEntryRow = z.object({
  kind: z.string(),
  value: z.string(),
  exactly: z.boolean(),
  note: z.string(),
  until: z.string().nullable(),
});

/** All entries of a list, as its file has them: domains before addresses. */
export const entriesForFile = (tx: Tx, listId: string): Promise<z.output<typeof writtenEntryRow>[]> =>
  rowsOf(
    tx,
    writtenEntryRow,
    sql`SELECT kind, value, exactly, note, until::text FROM address_list_entries WHERE list_id = ${listId} ORDER BY kind DESC, value`,
  );
