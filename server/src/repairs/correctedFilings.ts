import { HAND_RULES } from '@fulvet/core';
import { recordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { rowsOf } from '../base/db/rows';

const ruleFilingRow = z.object({ email: z.number(), kind: recordKind, record: z.number(), rule: z.string() });

export type RuleFiling = z.infer<typeof ruleFilingRow>;

/** Under what rules put the emails of these conversations. */
export function filingsByRules(tx: Tx, conversations: readonly number[]): Promise<RuleFiling[]> {
  return rowsOf(
    tx,
    ruleFilingRow,
    sql`SELECT f.email_id AS email, f.kind, f.record_id AS record, f.rule FROM filings f JOIN emails e ON e.id = f.email_id
      WHERE e.conversation_id = ANY(${sql.param([...conversations])}::bigint[]) AND f.rule <> ALL(${sql.param([...HAND_RULES])}::text[]) ORDER BY 1, 2, 3`,
  );
}

/** Notes what a repair took away of what rules had filed: how often a rule is right is computed from it. */
export async function noteCorrected(tx: Tx, repairId: number, before: readonly RuleFiling[]): Promise<void> {
  if (before.length === 0) return;
  await tx.execute(sql`INSERT INTO corrected_filings (repair_id, email_id, kind, record_id, rule)
    SELECT ${repairId}::bigint, b.email, b.kind, b.record, b.rule FROM json_to_recordset(${JSON.stringify(before)}::json) AS b(email bigint, kind text, record bigint, rule text)
    WHERE NOT EXISTS (SELECT FROM filings f WHERE f.email_id = b.email AND f.kind = b.kind AND f.record_id = b.record) ON CONFLICT DO NOTHING`);
}
