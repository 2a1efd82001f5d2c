import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import { parsedRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Services } from '../base/services';

const rulebookRow = z.object({
  version: z.number(),
  document: z.unknown(),
  summary: z.string(),
  created_at: moment,
  by: z.string().nullable(),
});

export async function rulebookState(
  services: Services,
  userId: number,
): Promise<{ version: number; document: unknown; summary: string; at: string; by: string | null } | Refusal> {
  const rows = await services.database.as(userId, (tx) =>
    rowsOf(
      tx,
      rulebookRow,
      sql`SELECT r.version, r.document, r.summary, r.created_at, u.name AS by FROM rulebooks r LEFT JOIN users u ON u.id = r.created_by WHERE r.pilot_mailboxes IS NULL ORDER BY r.version DESC LIMIT 1`,
    ),
  );
  const row = rows[0];
  if (!row) return notFound('rulebook');
  return { version: row.version, document: parsedRulebook(row.document), summary: row.summary, at: row.created_at, by: row.by };
}
