import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { PIN_DEEDS } from '@fulvet/core';
import { recordKind, pinReach } from '@fulvet/contract';
import type { Pin } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';

const pinRow = z.object({
  id: z.number(),
  does: z.enum(PIN_DEEDS),
  kind: recordKind.nullable(),
  reach: pinReach,
  by: z.string(),
  own: z.boolean(),
  at: z.number(),
  email_id: z.number(),
  record_id: z.number().nullable(),
  record_name: z.string(),
});

/** The pins that stand on these emails, by the email's id: their own, and those on others of their conversations that reach to them. */
export async function loadPins(tx: Tx, ids: readonly number[]): Promise<Map<number, Pin[]>> {
  const rows = await rowsOf(
    tx,
    pinRow,
    sql`
    SELECT e.id AS email_id, p.id, p.does, p.kind, p.record_id, coalesce(r.name, '') AS record_name, p.reach, coalesce(u.name, '') AS by, p.user_id = ANY(e.owner_ids) AS own, (extract(epoch FROM p.at) * 1000)::float8 AS at
    FROM pins p JOIN emails o ON o.id = p.email_id JOIN emails e ON e.conversation_id = o.conversation_id AND e.id = ANY(${sql.param([...ids])}::bigint[])
      LEFT JOIN users u ON u.id = p.user_id LEFT JOIN records r ON r.kind = p.kind AND r.id = p.record_id
    WHERE p.released_at IS NULL AND (p.record_id IS NULL OR r.id IS NOT NULL)
      AND (e.id = o.id OR p.reach = 'conversation' OR (p.reach = 'onward' AND (e.sent_at, e.id) > (o.sent_at, o.id)) OR (p.reach = 'soFar' AND e.sent_at <= p.at))
    ORDER BY p.at, p.id`,
  );
  const found = new Map<number, Pin[]>();
  for (const { email_id, record_id, record_name, ...pin } of rows) {
    const known = found.get(email_id) ?? [];
    known.push({
      id: pin.id,
      does: pin.does,
      kind: pin.kind,
      recordId: record_id,
      recordName: record_name,
      reach: pin.reach,
      by: pin.by,
      own: pin.own,
      at: pin.at,
    });
    found.set(email_id, known);
  }
  return found;
}
