import type { KeptEntryRow, KeptListRow, Pasted } from '@fulvet/contract';
import { addressKey, domainToAscii, RULE_STOPS, leavesOf } from '@fulvet/core';
import type { Rulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { randomBytes } from 'node:crypto';
import type { Tx } from '../db/database';
import { notFound, RequestError } from '../http/errors';

const PAGE = 500;
const DAYS = 30;

/** Kept lists with how large they are, what they took, and by which rules they are used. */
export async function keptLists(tx: Tx, rulebooks: readonly Rulebook[]): Promise<KeptListRow[]> {
  const { rows } = await tx.execute<{ id: string; name: string; note: string; entries: number }>(
    sql`SELECT l.id, l.name, l.note, (SELECT count(*)::int FROM kept_entries e WHERE e.list_id = l.id) AS entries FROM kept_lists l ORDER BY lower(l.name)`,
  );
  const lists: KeptListRow[] = [];
  for (const row of rows) lists.push({ ...row, took: await tookBy(tx, row.id), usedBy: usersOf(row.id, rulebooks) });
  return lists;
}

/** Emails of the last 30 days with somebody on the list; by domains outside, which are known of every email. */
async function tookBy(tx: Tx, listId: string): Promise<number> {
  const { rows } = await tx.execute<{
    took: number;
  }>(sql`SELECT count(*)::int AS took FROM emails e WHERE e.sent_at > now() - make_interval(days => ${DAYS})
    AND EXISTS (SELECT FROM unnest(e.external_domains) AS x(domain) JOIN kept_entries k ON k.list_id = ${listId} AND
      CASE WHEN k.kind = 'address' THEN x.domain = split_part(k.value, '@', 2) ELSE x.domain = k.value OR (NOT k.exactly AND right(x.domain, length(k.value) + 1) = '.' || k.value) END)`);
  return rows[0]?.took ?? 0;
}

function usersOf(listId: string, rulebooks: readonly Rulebook[]): string[] {
  const names = rulebooks.flatMap((rulebook) =>
    RULE_STOPS.flatMap((stop) =>
      rulebook[stop].rules
        .filter((rule) =>
          [...leavesOf(rule.when)].some((leaf) => leaf.fact === 'participant' && leaf.test.is === 'inList' && leaf.test.list === listId),
        )
        .map((rule) => rule.name || rule.id),
    ),
  );
  return [...new Set(names)];
}

export async function createList(tx: Tx, userId: number, name: string, note: string): Promise<string> {
  const { rowCount } = await tx.execute(sql`SELECT FROM kept_lists WHERE lower(name) = lower(${name})`);
  if (rowCount) throw new RequestError(409, 'exists', `There is a list “${name}” already. Choose another name.`, { name: 'is taken' });
  const id = `list-${randomBytes(4).toString('hex')}`;
  await tx.execute(sql`INSERT INTO kept_lists (id, name, note, created_by) VALUES (${id}, ${name}, ${note}, ${userId})`);
  return id;
}

export async function deleteList(tx: Tx, id: string, rulebooks: readonly Rulebook[]): Promise<void> {
  const users = usersOf(id, rulebooks);
  if (users.length > 0)
    throw new RequestError(409, 'in-use', `The list is used by ${users.map((one) => `“${one}”`).join(', ')}. Change those rules first.`);
  const { rowCount } = await tx.execute(sql`DELETE FROM kept_lists WHERE id = ${id}`);
  if (!rowCount) throw notFound('list');
}

export async function keptEntries(
  tx: Tx,
  listId: string,
  text: string,
  offset: number,
): Promise<{ entries: KeptEntryRow[]; total: number }> {
  await demandList(tx, listId);
  const like = `%${text.toLowerCase().replace(/[%_\\]/g, '\\$&')}%`;
  const where = sql`k.list_id = ${listId} AND (${text} = '' OR lower(k.value || ' ' || k.note) LIKE ${like})`;
  const { rows } = await tx.execute<Omit<KeptEntryRow, 'at'> & { added_at: string; [column: string]: unknown }>(sql`
    SELECT k.id, k.kind, k.value, k.exactly, k.note, u.name AS by, k.added_at, k.until::text AS until,
      (SELECT count(*)::int FROM emails e WHERE e.sent_at > now() - make_interval(days => ${DAYS}) AND EXISTS (SELECT FROM unnest(e.external_domains) AS x(domain)
        WHERE CASE WHEN k.kind = 'address' THEN x.domain = split_part(k.value, '@', 2) ELSE x.domain = k.value OR (NOT k.exactly AND right(x.domain, length(k.value) + 1) = '.' || k.value) END)) AS took,
      (SELECT o.value FROM kept_entries o WHERE o.list_id = k.list_id AND o.id <> k.id AND o.kind = 'domain' AND NOT o.exactly
        AND (CASE WHEN k.kind = 'address' THEN split_part(k.value, '@', 2) ELSE k.value END = o.value OR right(k.value, length(o.value) + 1) IN ('.' || o.value, '@' || o.value)) LIMIT 1) AS "coveredBy"
    FROM kept_entries k LEFT JOIN users u ON u.id = k.added_by WHERE ${where} ORDER BY k.kind DESC, k.value LIMIT ${PAGE} OFFSET ${offset}`);
  const counted = await tx.execute<{ total: number }>(sql`SELECT count(*)::int AS total FROM kept_entries k WHERE ${where}`);
  return {
    entries: rows.map(({ added_at, ...row }) => ({ ...row, at: new Date(added_at).toISOString() })),
    total: counted.rows[0]?.total ?? 0,
  };
}

/** Adds what was pasted, in any form; what could not be read is given back. */
export async function pasteEntries(
  tx: Tx,
  userId: number,
  listId: string,
  { text, note, until }: { text: string; note: string; until: string | null },
): Promise<Pasted> {
  await demandList(tx, listId);
  const { read, unread } = readPasted(text);
  const { rowCount } = await tx.execute(sql`INSERT INTO kept_entries (list_id, kind, value, exactly, note, added_by, until)
    SELECT ${listId}, kind, value, false, CASE WHEN note = '' THEN ${note} ELSE note END, ${userId}::bigint, ${until}::date
    FROM json_to_recordset(${JSON.stringify(read)}::json) AS r(kind text, value text, note text) ON CONFLICT DO NOTHING`);
  const added = rowCount ?? 0;
  return { added, known: read.length - added, unread: unread.slice(0, 100) };
}

/** Columns that the first line of a CSV may name. */
const HEADER_WORD = /^(?:kind|value|exactly|note|until|domain|address|email)s?$/i;

interface ReadEntry {
  kind: 'domain' | 'address';
  value: string;
  note: string;
}

/** Domains and addresses in a text: one a line with an optional note behind a tab, or several parted by commas and blanks. */
export function readPasted(text: string): { read: ReadEntry[]; unread: string[] } {
  const read = new Map<string, ReadEntry>();
  const unread: string[] = [];
  for (const [at, line] of text.split(/\r?\n/).entries()) {
    const [first = '', ...rest] = line.split('\t');
    const note = rest.join(' ').trim().slice(0, 500);
    for (const piece of piecesOf(first)) {
      const entry = readEntry(piece);
      if (entry) read.set(entry.value, { ...entry, note });
      else if (at > 0 || !HEADER_WORD.test(piece)) unread.push(piece.slice(0, 200));
    }
  }
  return { read: [...read.values()], unread };
}

/** Names that stand before an address in angle brackets belong to it. */
function piecesOf(text: string): string[] {
  const inBrackets = [...text.matchAll(/<([^<>]+)>/g)].map(([, inner = '']) => inner);
  const rest = text.replace(/(?:"[^"]*"\s*|[^,;<>]*)<[^<>]+>/g, ' ');
  return [...inBrackets, ...rest.split(/[\s,;]+/)].map((one) => one.replace(/^["'(]+|["'),.]+$/g, '').trim()).filter(Boolean);
}

function readEntry(piece: string): Pick<ReadEntry, 'kind' | 'value'> | null {
  const bare = piece
    .replace(/^mailto:/i, '')
    .replace(/^[a-z][a-z0-9+.-]*:\/\//i, '')
    .replace(/^(?:\*\.|@)/, '');
  if (bare.includes('@')) {
    const address = addressKey(bare.replace(/[?/#].*$/, ''), { tagsTellApart: true })?.key;
    return address ? { kind: 'address', value: address } : null;
  }
  const domain = domainToAscii(bare.replace(/[/?#:].*$/, '').replace(/^www\./i, ''));
  return /^(?:[a-z0-9-]+\.)+[a-z0-9-]{2,}$/.test(domain) ? { kind: 'domain', value: domain } : null;
}

export async function changeEntry(
  tx: Tx,
  listId: string,
  id: number,
  change: { note?: string | undefined; until?: string | null | undefined; exactly?: boolean | undefined },
): Promise<void> {
  const { rowCount } =
    await tx.execute(sql`UPDATE kept_entries SET note = coalesce(${change.note ?? null}, note), exactly = coalesce(${change.exactly ?? null}::boolean, exactly),
    until = ${change.until === undefined ? sql`until` : sql`${change.until}::date`} WHERE id = ${id} AND list_id = ${listId}`);
  if (!rowCount) throw notFound('entry');
}

export async function removeEntry(tx: Tx, listId: string, id: number): Promise<void> {
  const { rowCount } = await tx.execute(sql`DELETE FROM kept_entries WHERE id = ${id} AND list_id = ${listId}`);
  if (!rowCount) throw notFound('entry');
}

export async function demandList(tx: Tx, id: string): Promise<void> {
  const { rowCount } = await tx.execute(sql`SELECT FROM kept_lists WHERE id = ${id}`);
  if (!rowCount) throw notFound('list');
}
