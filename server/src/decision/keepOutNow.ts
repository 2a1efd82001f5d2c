import type { KeepOutPreview } from '@fulvet/contract';
import type { CompiledRulebook, KeepOutEntry } from '@fulvet/core';
import { domainOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Database, Tx } from '../base/db/database';
import type { DecideScope } from './decideRun';

/** What keeping it out would do to stored mail. Counts only; changes nothing. Runs as worker, because the numbers are about all mail. */
export async function previewKeepOut(database: Database, entry: KeepOutEntry, rulebook: CompiledRulebook): Promise<KeepOutPreview> {
  const warning = warningFor(entry, rulebook);
  const already = rulebook.source.keepOut.entries.find((item) => item.kind === entry.kind && item.value === entry.value);
  const matches = entry.kind === 'domain' ? domainMatch(entry) : sql`p.address = ${entry.value}`;
  const left =
    entry.effect === 'keepOut'
      ? sql`true`
      : sql`NOT EXISTS (SELECT FROM participants p WHERE p.email_id = w.id AND p.role IN ('from', 'to', 'cc', 'bcc') AND NOT (${matches}) AND NOT (p.address = ANY(${sql.param(await ourAddresses(database))}::text[])) AND NOT ${uncountedMatch(rulebook)})`;
  const { rows } = await database.worker.execute<{ concerned: number; leaving: number; filed: number; records: number }>(sql`
    WITH w AS MATERIALIZED (SELECT e.id, e.outcome FROM emails e WHERE e.outcome NOT IN ('kept out', 'sealed') AND EXISTS (SELECT FROM participants p WHERE p.email_id = e.id AND p.role IN ('from', 'to', 'cc', 'bcc') AND ${matches})),
      leaving AS MATERIALIZED (SELECT w.id, w.outcome FROM w WHERE ${left})
    SELECT (SELECT count(*)::int FROM w) AS concerned, (SELECT count(*)::int FROM leaving) AS leaving,
      (SELECT count(*)::int FROM leaving WHERE EXISTS (SELECT FROM filings f WHERE f.email_id = leaving.id)) AS filed,
      (SELECT count(*)::int FROM (SELECT f.kind, f.record_id FROM filings f WHERE f.email_id IN (SELECT id FROM leaving)
        EXCEPT SELECT f.kind, f.record_id FROM filings f WHERE f.email_id NOT IN (SELECT id FROM leaving)) AS emptied) AS records`);
  const row = rows[0];
  return {
    value: entry.value,
    concerned: row?.concerned ?? 0,
    wouldLeave: row?.leaving ?? 0,
    filedNow: row?.filed ?? 0,
    records: row?.records ?? 0,
    already: already?.id ?? null,
    warning,
  };
}

function warningFor(entry: KeepOutEntry, rulebook: CompiledRulebook): string | null {
  const domain = entry.kind === 'domain' ? entry.value : domainOf(entry.value);
  if (rulebook.isOurs(entry.value, domain))
    return `${entry.value} is one of ours. Mail among ourselves is kept out by its own rule; this entry would do nothing.`;
  if (entry.kind === 'domain' && rulebook.isPublicProvider(domain))
    return `${domain} is a public mail provider: customers who write from a private address there would be kept out as well.`;
  return null;
}

function domainMatch(entry: KeepOutEntry): ReturnType<typeof sql> {
  return entry.exactly
    ? sql`p.domain = ${entry.value}`
    : sql`(p.domain = ${entry.value} OR right(p.domain, ${entry.value.length + 1}) = ${`.${entry.value}`})`;
}

/** Participants who do not count anyway: our own domains, and those that other entries disregard. */
function uncountedMatch(rulebook: CompiledRulebook): ReturnType<typeof sql> {
  const { us, keepOut } = rulebook.source;
  const covering = [
    ...us.ownDomains,
    ...keepOut.entries.filter((entry) => entry.kind === 'domain' && !entry.exactly).map((entry) => entry.value),
  ];
  const exact = keepOut.entries.filter((entry) => entry.kind === 'domain' && entry.exactly).map((entry) => entry.value);
  const addresses = keepOut.entries.filter((entry) => entry.kind === 'address').map((entry) => entry.value);
  return sql`(EXISTS (SELECT FROM unnest(${sql.param(covering)}::text[]) AS o(domain) WHERE p.domain = o.domain OR right(p.domain, length(o.domain) + 1) = '.' || o.domain)
    OR p.domain = ANY(${sql.param(exact)}::text[]) OR p.address = ANY(${sql.param(addresses)}::text[]))`;
}

async function ourAddresses(database: Database): Promise<string[]> {
  const { rows } = await database.worker.execute<{ address: string }>(
    sql`SELECT lower(email) AS address FROM users UNION SELECT lower(address) FROM mailboxes`,
  );
  return rows.map((row) => row.address);
}

/** The emails that an entry touches, kept-out ones included. */
export function scopeOf(entry: Pick<KeepOutEntry, 'kind' | 'value'>): Exclude<DecideScope, string> {
  return entry.kind === 'domain' ? { addresses: [], domains: [entry.value] } : { addresses: [entry.value], domains: [] };
}

/** Notes a step that can be undone. */
export async function noteUndo(tx: Tx, userId: number, summary: string, entryId: string): Promise<{ id: number; at: string }> {
  const { rows } = await tx.execute<{ id: number; created_at: string }>(
    sql`INSERT INTO undo_steps (user_id, summary, entry_id) VALUES (${userId}, ${summary}, ${entryId}) RETURNING id, created_at`,
  );
  return { id: rows[0]?.id ?? 0, at: new Date(rows[0]?.created_at ?? 0).toISOString() };
}
