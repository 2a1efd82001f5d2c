import { z } from 'zod';
import { json, rowsOf } from '../../base/db/rows';
import { leavesOf, RULE_STEPS } from '@fulvet/core';
import type { AddressList, Rulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Db, Tx } from '../../base/db/database';

/** Ids of the address lists that the rules refer to. */
export function listsOf(rulebook: Rulebook): Set<string> {
  const ids = new Set<string>();
  for (const step of RULE_STEPS)
    for (const rule of rulebook[step].rules)
      for (const leaf of leavesOf(rule.when)) if (leaf.fact === 'participant' && leaf.test.is === 'inList') ids.add(leaf.test.list);
  return ids;
}

const addressListEntryRow = z.object({
  id: z.string(),
  name: z.string(),
  entries: json<{ kind: 'domain' | 'address' | 'local'; value: string; exactly: boolean }[]>(),
});

/** The address lists that a rulebook refers to, with the entries that count today. */
export async function loadLists(db: Db | Tx, rulebook: Rulebook): Promise<AddressList[]> {
  const wanted = [...listsOf(rulebook)];
  if (wanted.length === 0) return [];
  const rows = await rowsOf(
    db,
    addressListEntryRow,
    sql`
    SELECT l.id, l.name, coalesce((SELECT json_agg(json_build_object('kind', e.kind, 'value', e.value, 'exactly', e.exactly) ORDER BY e.id)
      FROM address_list_entries e WHERE e.list_id = l.id AND (e.until IS NULL OR e.until >= current_date)), '[]'::json) AS entries
    FROM address_lists l WHERE l.id = ANY(${sql.param(wanted)}::text[])`,
  );
  return rows;
}
