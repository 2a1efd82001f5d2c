import { ACTIVITY_TELLS_DAYS, RULES } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { bigints } from '../base/db/copyRows';
import type { Tx } from '../base/db/database';
import { certainDeals } from './decideInOrder';
import type { DecidedEmail } from './decideInOrder';
import { filedUnder } from '../emails/filingsText';
import type { RulebookInForce } from '../rulebook/rulebookInForce';

/** Deals about which something was learnt, with the earliest time of it, milliseconds; null where every time may be concerned. */
export type ChangedDeals = ReadonlyMap<number, number | null>;

/** Whether any rulebook in force finds deals by score. */
export const goesByScore = (inForce: RulebookInForce): boolean =>
  inForce.rulebooks.some((rulebook) => rulebook.source.match.deal === 'scored');

/**
 * Notes the deals that these decisions file emails under beyond doubt, or no longer do, where later emails are decided already: mailboxes are
 * read one after the other, each from its newest mail back.
 */
export async function noteLateActivity(tx: Tx, decided: readonly DecidedEmail[], inForce: RulebookInForce): Promise<void> {
  if (!goesByScore(inForce)) return;
  const since = new Map<number, number>();
  for (const { email, decision } of decided) {
    const was = certainDeals(filedUnder(email.before.filings));
    const is = certainDeals(decision.filings);
    const { at } = email.facts;
    for (const deal of [...was, ...is]) if (was.has(deal) !== is.has(deal)) since.set(deal, Math.min(at, since.get(deal) ?? at));
  }
  if (since.size === 0) return;
  const rows = JSON.stringify([...since].map(([deal, at]) => ({ deal, at })));
  await tx.execute(sql`
    INSERT INTO late_activity (deal_id, since) SELECT n.deal, to_timestamp(n.at / 1000) FROM json_to_recordset(${rows}::json) AS n(deal bigint, at float8)
    WHERE to_timestamp(n.at / 1000) < (SELECT sent_at FROM emails WHERE decided_at IS NOT NULL AND sent_at < now() AND id <> ALL(${bigints(decided.map(({ email }) => email.facts.id))}) ORDER BY sent_at DESC LIMIT 1)
    ORDER BY n.deal ON CONFLICT (deal_id) DO UPDATE SET since = least(late_activity.since, excluded.since), touched_at = now()`);
}

/**
 * Emails that may go otherwise now: those under the people and accounts of these deals that stand under a deal by score, or under none. They
 * are marked to be decided again.
 *
 * @param but conversations that are decided already
 * @returns how many there are
 */
export async function markByScore(tx: Tx, deals: ChangedDeals, but: readonly number[] = []): Promise<number> {
  if (deals.size === 0) return 0;
  const rows = JSON.stringify([...deals].map(([deal, at]) => ({ deal, at })));
  const marked = await tx.execute(sql`
    WITH changed AS (SELECT deal, to_timestamp(at / 1000) AS since FROM json_to_recordset(${rows}::json) AS n(deal bigint, at float8)),
    near AS (
      SELECT f.email_id, c.since FROM changed c JOIN deal_people p ON p.deal_id = c.deal JOIN filings f ON f.kind = p.kind AND f.record_id = p.person_id
      UNION ALL SELECT f.email_id, c.since FROM changed c JOIN deals d ON d.id = c.deal JOIN filings f ON f.kind = 'account' AND f.record_id = d.account_id)
    UPDATE emails e SET decided_at = NULL WHERE e.conversation_id <> ALL(${bigints(but)}) AND e.outcome IN ('filed', 'waiting')
      AND e.id IN (SELECT n.email_id FROM near n JOIN emails x ON x.id = n.email_id WHERE n.since IS NULL OR (x.sent_at > n.since AND x.sent_at < n.since + make_interval(days => ${ACTIVITY_TELLS_DAYS})))
      AND NOT EXISTS (SELECT FROM filings f WHERE f.email_id = e.id AND f.kind = 'deal' AND f.rule <> ${RULES.dealByScore})`);
  return marked.rowCount ?? 0;
}
