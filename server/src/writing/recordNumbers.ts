import { recordKind } from '@fulvet/contract';
import { numbersOf, RULES } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { rowsOf } from '../base/db/rows';

/** A subject with more of them is no subject any more. */
const MOST = 3;

const codeRow = z.object({ code: z.string() });

/** The numbers of the open records of own kinds under which an email stands, of those that the acting user sees. */
export async function openNumbers(tx: Tx, emailId: number): Promise<string[]> {
  const rows = await rowsOf(
    tx,
    codeRow,
    sql`SELECT o.code FROM filings f JOIN own_records o ON f.kind = 'own' AND o.id = f.record_id WHERE f.email_id = ${emailId} AND o.open ORDER BY o.id LIMIT ${MOST}`,
  );
  return rows.map(({ code }) => code);
}

/** A subject that names these numbers: by them answers find their records, whatever mail program they come from. */
export function subjectWith(subject: string, numbers: readonly string[]): string {
  const named = new Set(numbersOf(subject).map(({ code }) => code));
  return [subject, ...numbers.filter((number) => !named.has(number)).map((number) => `[${number}]`)].join(' ').trim();
}

const recordRow = z.object({ kind: recordKind, id: z.number() });

/** The principal record of an email, which its answers and forwards follow; null where it has none that the acting user sees. */
export async function principalRecord(tx: Tx, emailId: number): Promise<z.infer<typeof recordRow> | null> {
  const rows = await rowsOf(
    tx,
    recordRow,
    sql`SELECT f.kind, f.record_id AS id FROM filings f JOIN records r ON r.kind = f.kind AND r.id = f.record_id WHERE f.email_id = ${emailId} AND f.rule = ${RULES.principal}`,
  );
  return rows[0] ?? null;
}
