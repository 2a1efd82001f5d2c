import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { KeepOutPreview } from '@fulvet/contract';
import type { CompiledRulebook, KeepOutEntry } from '@fulvet/core';
import { domainOf } from '@fulvet/core';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Database, Tx } from '../base/db/database';
import { personKeyInSql } from '../base/db/personKey';
import type { Sources } from '../base/reading/sources';
import { withEntry } from '../rulebook/keepOutEntry';
import { RulebookInForce } from '../rulebook/rulebookInForce';
import { recordsFiledUnder } from '../emails/filingsText';
import { decideOtherwise } from './decideOtherwise';
import { conversationsOf, loadInputs } from './inputs/loadInputs';

/** Emails that are decided to see what would come of it, the newest; and those of their conversations at most. */
const MOST_TRIED = 500;
const MOST_WITH_CONVERSATIONS = 2_000;

/**
 * What keeping it out would do to stored mail: the newest of it is decided as if the entry stood in every rulebook in force, and compared with how
 * it stands. Counts only; changes nothing. Runs as worker, because the numbers are about all mail.
 */
export async function previewKeepOut(
  database: Database,
  blobs: Sources,
  entry: KeepOutEntry,
  most: number = MOST_TRIED,
): Promise<KeepOutPreview> {
  const inForce = await RulebookInForce.load(database);
  const changed = await inForce.changed(database.worker, (rulebook) => withEntry(rulebook, entry));
  const live = inForce.live.compiled;
  return database.work(
    async (tx) => {
      const { ids, concerned } = await newestWith(tx, entry, live, most);
      const asked = new Set(ids);
      const inputs = await loadInputs(tx, blobs, await conversationsOf(tx, ids, MOST_WITH_CONVERSATIONS), changed.rulebooks, {
        memories: new Map(),
      });
      const leaving = decideOtherwise(inputs, (email) => changed.versionFor(email).compiled).filter(
        ({ email, decision }) => asked.has(email.facts.id) && decision.outcome === 'kept out' && email.before.outcome !== 'kept out',
      );
      const filed = leaving.flatMap(({ email }) => {
        const keys = recordsFiledUnder(email.before.filings);
        return keys.length > 0 ? [keys] : [];
      });
      return {
        value: entry.value,
        concerned,
        tried: ids.length,
        wouldLeave: leaving.length,
        filedNow: filed.length,
        records: await emptied(
          tx,
          [...new Set(filed.flat())],
          leaving.map(({ email }) => email.facts.id),
        ),
        already: live.source.keepOut.entries.find((item) => item.kind === entry.kind && item.value === entry.value)?.id ?? null,
        warning: warningFor(entry, live),
      };
    },
    { accessMode: 'read only' },
  );
}

const emailRow = z.object({ ids: z.array(z.number()).nullable(), concerned: z.number() });

/** The newest emails with the entry's participant that are neither kept out nor sealed, and how many there are in all. */
async function newestWith(
  tx: Tx,
  entry: KeepOutEntry,
  rulebook: CompiledRulebook,
  most: number,
): Promise<{ ids: number[]; concerned: number }> {
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`
    WITH found AS MATERIALIZED (SELECT e.id, e.sent_at FROM emails e WHERE e.outcome NOT IN ('kept out', 'sealed')
      AND EXISTS (SELECT FROM participants p WHERE p.email_id = e.id AND p.role IN ('from', 'to', 'cc', 'bcc') AND ${matches(entry, rulebook)}))
    SELECT (SELECT count(*)::int FROM found) AS concerned, (SELECT array_agg(n.id) FROM (SELECT id FROM found ORDER BY sent_at DESC, id DESC LIMIT ${most}) n) AS ids`,
  );
  return { ids: rows[0]?.ids ?? [], concerned: rows[0]?.concerned ?? 0 };
}

function matches(entry: KeepOutEntry, rulebook: CompiledRulebook): SQL {
  if (entry.kind === 'address') return sql`${personKeyInSql(rulebook, sql`p.address`)} = ${rulebook.personKey(entry.value)}`;
  return entry.exactly
    ? sql`p.domain = ${entry.value}`
    : sql`(p.domain = ${entry.value} OR right(p.domain, ${entry.value.length + 1}) = ${`.${entry.value}`})`;
}

const recordsRow = z.object({ records: z.number() });

/** How many of these records, each as `kind:id`, have no email but these. */
async function emptied(tx: Tx, records: readonly string[], emailIds: readonly number[]): Promise<number> {
  if (records.length === 0) return 0;
  const rows = await rowsOf(
    tx,
    recordsRow,
    sql`
    SELECT count(*)::int AS records FROM unnest(${sql.param([...records])}::text[]) AS r(key)
    WHERE NOT EXISTS (SELECT FROM filings f WHERE f.kind = split_part(r.key, ':', 1) AND f.record_id = split_part(r.key, ':', 2)::bigint AND NOT (f.email_id = ANY(${sql.param([...emailIds])}::bigint[])))`,
  );
  return rows[0]?.records ?? 0;
}

function warningFor(entry: KeepOutEntry, rulebook: CompiledRulebook): string | null {
  const domain = entry.kind === 'domain' ? entry.value : domainOf(entry.value);
  if (rulebook.isOurs(entry.value, domain))
    return `${entry.value} is one of ours. Mail among ourselves is kept out by its own rule; this entry would do nothing.`;
  if (entry.kind === 'domain' && rulebook.isPublicProvider(domain))
    return `${domain} is a public mail provider: customers who write from a private address there would be kept out as well.`;
  return null;
}
