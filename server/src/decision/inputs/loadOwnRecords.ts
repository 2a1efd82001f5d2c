import type { OwnRecord } from '@fulvet/core';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../../base/db/database';
import { json, manyRowsOf } from '../../base/db/rows';
import { ownTexts } from '../../records/ownFields';

const ownRecordRow = z.object({
  id: z.number(),
  kind: z.string(),
  noun: z.string(),
  name: z.string(),
  code: z.string(),
  account_id: z.number().nullable(),
  open: z.boolean(),
  state: z.string(),
  opened_on: z.string(),
  closed_on: z.string().nullable(),
  owner: z.string().nullable(),
  own: json<Record<string, unknown>>().nullable(),
  people: z.array(z.string()),
  addresses: z.array(z.string()),
});

/** Records of kinds that the workspace defines. That they were written about tells nothing here, so that no order of reading does either. */
export async function loadOwnRecords(tx: Tx, where: SQL): Promise<OwnRecord[]> {
  const rows = await manyRowsOf(
    tx,
    ownRecordRow,
    sql`
    SELECT o.id, k.key AS kind, lower(k.singular) AS noun, o.code || ' ' || o.name AS name, o.code, o.account_id, o.open, o.state, o.opened_on::text, o.closed_on::text, lower(u.email) AS owner, nullif(o.own, '{}'::jsonb) AS own,
      ARRAY(SELECT p.kind || ':' || p.person_id FROM own_record_people p WHERE p.record_id = o.id ORDER BY 1) AS people, ARRAY(SELECT a.address FROM own_record_addresses a WHERE a.record_id = o.id ORDER BY 1) AS addresses
    FROM own_records o JOIN own_kinds k ON k.id = o.kind_id LEFT JOIN users u ON u.id = o.owner_id WHERE ${where} ORDER BY o.id`,
  );
  return rows.map(({ account_id: accountId, state, opened_on: opened, closed_on: closed, own, ...row }) => ({
    ...row,
    accountId,
    stage: state,
    amount: null,
    activity: [],
    ...ownOf(own),
    openedAt: dayBegins(opened),
    closedAt: closed === null ? null : dayEnds(closed),
  }));
}

/** When a day begins and ends, milliseconds. */
export const dayBegins = (day: string): number => Date.parse(`${day}T00:00:00.000Z`);
export const dayEnds = (day: string): number => Date.parse(`${day}T23:59:59.999Z`);

/** Values of own fields as rules ask for them; nothing where a record has none. */
export function ownOf(own: Record<string, unknown> | null): { own?: Record<string, string> } {
  return own === null ? {} : { own: ownTexts(own) };
}
