import type { TrialRow } from '@fulvet/contract';
import { stringify } from 'csv-stringify/sync';

/** The head of the CSV file. */
export const TRIAL_COLUMNS = 'date,subject,outcome before,outcome after,seen before,seen after,differs at,filings won,filings lost';

/** A row of the CSV file; what a spreadsheet would run as a formula is escaped. */
export function trialLine(row: TrialRow): string {
  const subject = row.email.content?.subject ?? '';
  const { outcomeBefore, outcomeAfter, visibilityBefore, visibilityAfter, step, won, lost } = row;
  const cells = [
    row.email.at,
    subject,
    outcomeBefore ?? '',
    outcomeAfter,
    visibilityBefore,
    visibilityAfter,
    step ?? '',
    won.join('; '),
    lost.join('; '),
  ];
  return stringify([cells], { escape_formulas: true });
}

/** A line of the JSON Lines file. */
export function trialJson(row: TrialRow): string {
  const { id, at, content } = row.email;
  return `${JSON.stringify({ ...row, email: { id, at, subject: content?.subject ?? '' } })}\n`;
}
