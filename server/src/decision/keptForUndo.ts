import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { MadeKind } from '../records/recordSnapshot';

export interface CreatedRecord {
  kind: MadeKind;
  id: number;
}

/** Keeps what stands of these emails for the undo of a run; what is kept already is what stood first. */
export async function keepBefores(tx: Tx, runId: number, changed: readonly number[], unchanged: readonly number[]): Promise<void> {
  await tx.execute(sql`INSERT INTO run_befores (run_id, email_id, email, filings, docket)
    SELECT ${runId}::bigint, e.id, jsonb_build_object('direction', e.direction, 'outcome', e.outcome, 'visibility', e.visibility, 'shared_teams', to_jsonb(e.shared_teams), 'existence_only', e.existence_only, 'external_domains', to_jsonb(e.external_domains), 'steps', e.steps, 'rulebook_version', e.rulebook_version, 'decided_at', e.decided_at),
      coalesce((SELECT jsonb_agg(to_jsonb(f)) FROM filings f WHERE f.email_id = e.id), '[]'::jsonb), (SELECT to_jsonb(k) FROM dockets k WHERE k.email_id = e.id)
    FROM emails e WHERE e.id = ANY(${sql.param([...changed])}::bigint[])
    ON CONFLICT (run_id, email_id) DO UPDATE SET email = excluded.email || run_befores.email, filings = excluded.filings, docket = excluded.docket WHERE run_befores.filings IS NULL`);
  await tx.execute(sql`INSERT INTO run_befores (run_id, email_id, email) SELECT ${runId}::bigint, e.id, jsonb_build_object('rulebook_version', e.rulebook_version)
    FROM emails e WHERE e.id = ANY(${sql.param([...unchanged])}::bigint[]) ON CONFLICT DO NOTHING`);
}

export async function keepCreated(tx: Tx, runId: number, records: readonly CreatedRecord[]): Promise<void> {
  if (records.length === 0) return;
  await tx.execute(
    sql`INSERT INTO run_created (run_id, kind, record_id) SELECT ${runId}::bigint, kind, id FROM json_to_recordset(${JSON.stringify(records)}::json) AS r(kind text, id bigint) ON CONFLICT DO NOTHING`,
  );
}
