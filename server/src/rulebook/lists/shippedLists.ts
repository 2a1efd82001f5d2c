import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { ROLE_LOCALS } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { createRequire } from 'node:module';
import type { Database, Db, Tx } from '../../base/db/database';

/** Names that RFC 2606 reserves for examples; the list has them, no one's mailbox is there. */
const NOT_PROVIDERS = new Set(['example.com', 'example.net', 'example.org']);

/** Address lists that ship with content, and that every rulebook goes by. */
export const PROVIDERS_LIST = 'public-providers';
export const ROLES_LIST = 'role-addresses';

/** What the shipped lists say now. */
export interface ShippedLists {
  /** Domains of public mail providers, which never stand for a company. */
  publicProviders: ReadonlySet<string>;
  /** Local parts of addresses that name a function, not a person. */
  roleLocals: ReadonlySet<string>;
}

/**
 * Puts the shipped lists in place where they are not yet: public mail providers (source: the npm package `email-providers`, ISC, file
 * `all.json`) and role addresses (RFC 2142 and common use). What an administrator makes of them since stays.
 */
export async function putShippedLists({ worker }: Database): Promise<void> {
  const providers = (createRequire(import.meta.url)('email-providers/all.json') as string[]).filter((value) => !NOT_PROVIDERS.has(value));
  await putList(worker, PROVIDERS_LIST, 'Public mail providers', 'Their domains never stand for a company.', 'domain', providers);
  await putList(worker, ROLES_LIST, 'Role addresses', 'Parts before the @ that name a function: no one is created from them.', 'local', [
    ...ROLE_LOCALS,
  ]);
}

async function putList(db: Db, id: string, name: string, note: string, kind: string, values: readonly string[]): Promise<void> {
  await db.transaction(async (tx) => {
    const made = await tx.execute(
      sql`INSERT INTO address_lists (id, name, note, shipped) VALUES (${id}, ${name}, ${note}, true) ON CONFLICT DO NOTHING`,
    );
    if (!made.rowCount) return;
    await tx.execute(
      sql`INSERT INTO address_list_entries (list_id, kind, value, note) SELECT ${id}, ${kind}, value, 'shipped' FROM unnest(${sql.param([...values])}::text[]) AS v(value) ON CONFLICT DO NOTHING`,
    );
  });
}

const caches = new Map<string, { stamp: string; lists: ShippedLists }>();

const addressListRow = z.object({ stamp: z.string(), place: z.string() });

const addressListEntryRow = z.object({ list_id: z.string(), values: z.array(z.string()) });

/** The shipped lists as they stand; read again only when one was changed. */
export async function shippedLists(db: Db | Tx): Promise<ShippedLists> {
  const rows = await rowsOf(
    db,
    addressListRow,
    sql`SELECT coalesce(string_agg(id || changed_at::text, ' ' ORDER BY id), '') || ' ' || current_date AS stamp, current_database() AS place FROM address_lists WHERE shipped`,
  );
  const { stamp = '', place = '' } = rows[0] ?? {};
  const known = caches.get(place);
  if (known?.stamp === stamp) return known.lists;
  const entries = await rowsOf(
    db,
    addressListEntryRow,
    sql`SELECT list_id, array_agg(value) AS values FROM address_list_entries WHERE list_id IN (${PROVIDERS_LIST}, ${ROLES_LIST}) AND (until IS NULL OR until >= current_date) GROUP BY 1`,
  );
  const of = (id: string): Set<string> => new Set(entries.find((row) => row.list_id === id)?.values ?? []);
  const lists = { publicProviders: of(PROVIDERS_LIST), roleLocals: of(ROLES_LIST) };
  caches.set(place, { stamp, lists });
  return lists;
}
