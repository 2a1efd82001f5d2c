import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import { parsedRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { iso } from '../base/iso';
import type { Services } from '../base/services';

export async function rulebookState(
  services: Services,
  userId: number,
): Promise<{ version: number; document: unknown; summary: string; at: string; by: string | null } | Refusal> {
  const { rows } = await services.database.as(userId, (tx) =>
    tx.execute<{ version: number; document: unknown; summary: string; created_at: string; by: string | null }>(
      sql`SELECT r.version, r.document, r.summary, r.created_at, u.name AS by FROM rulebooks r LEFT JOIN users u ON u.id = r.created_by WHERE r.pilot_mailboxes IS NULL ORDER BY r.version DESC LIMIT 1`,
    ),
  );
  const row = rows[0];
  if (!row) return notFound('rulebook');
  return { version: row.version, document: parsedRulebook(row.document), summary: row.summary, at: iso(row.created_at), by: row.by };
}
