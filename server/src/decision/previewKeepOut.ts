import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { AllowAgainPreview, KeepOutPreview } from '@fulvet/contract';
import type { CompiledRulebook, KeepOutEntry } from '@fulvet/core';
import { domainOf } from '@fulvet/core';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Database, Tx } from '../base/db/database';
import { personKeyInSql } from '../base/db/personKey';
import type { Sources } from '../base/reading/sources';
import { Refusal } from '../base/refusal';
import { withEntry, withoutEntry } from '../rulebook/keepOutEntry';
import { RulebookInForce } from '../rulebook/rulebookInForce';
import { recordsFiledUnder } from '../emails/filingsText';
import { mailConcerning } from '../records/concernedMail';
import { scopeOf } from './keepOutScope';
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
      const leaving = (await decideWith(tx, blobs, ids, changed)).filter(
        ({ email, decision }) => decision.outcome === 'kept out' && email.before.outcome !== 'kept out',
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

/**
 * What allowing an entry again would do: the newest emails with its participant, kept-out ones included, are decided as if it stood in no rulebook in
 * force, and compared with how they are. Counts only; changes nothing. Runs as worker, because the numbers are about all mail.
 */
export async function previewAllowAgain(
  database: Database,
  blobs: Sources,
  entryId: string,
  most: number = MOST_TRIED,
): Promise<AllowAgainPreview | Refusal> {
  const inForce = await RulebookInForce.load(database);
  const entry = inForce.live.compiled.source.keepOut.entries.find((item) => item.id === entryId);
  if (!entry) return new Refusal('unknown', 'not-found', 'This entry is no longer on the kept-out list.');
  const changed = await inForce.changed(database.worker, (rulebook) => withoutEntry(rulebook, entryId));
  const touched = await mailConcerning(database, scopeOf(entry), inForce.rulebooks);
  return database.work(
    async (tx) => {
      const { ids, concerned } = await newestOf(tx, sql`e.outcome <> 'sealed' AND e.id IN (SELECT id FROM emails WHERE ${touched})`, most);
      const decided = await decideWith(tx, blobs, ids, changed);
      const isNew = ({ email, decision }: (typeof decided)[number]): boolean => {
        const now = new Set(recordsFiledUnder(email.before.filings));
        return decision.filings.some(({ kind, id }) => !now.has(`${kind}:${id}`));
      };
      return {
        value: entry.value,
        concerned,
        tried: ids.length,
        wouldReturn: decided.filter(({ email, decision }) => email.before.outcome === 'kept out' && decision.outcome !== 'kept out').length,
        wouldBeFiled: decided.filter(isNew).length,
      };
    },
    { accessMode: 'read only' },
  );
}

/** Decides these emails, within their conversations, by a changed rulebook; with how they are now. */
async function decideWith(tx: Tx, blobs: Sources, ids: readonly number[], changed: RulebookInForce) {
  const asked = new Set(ids);
  const inputs = await loadInputs(tx, blobs, await conversationsOf(tx, ids, MOST_WITH_CONVERSATIONS), changed.rulebooks, {
    memories: new Map(),
  });
  return decideOtherwise(inputs, (email) => changed.versionFor(email).compiled).filter(({ email }) => asked.has(email.facts.id));
}

const emailRow = z.object({ ids: z.array(z.number()).nullable(), concerned: z.number() });

/** The newest emails with the entry's participant that are neither kept out nor sealed, and how many there are in all. */
async function newestWith(
  tx: Tx,
  entry: KeepOutEntry,
  rulebook: CompiledRulebook,
  most: number,
): Promise<{ ids: number[]; concerned: number }> {
  return newestOf(
    tx,
    sql`e.outcome NOT IN ('kept out', 'sealed')
      AND EXISTS (SELECT FROM participants p WHERE p.email_id = e.id AND p.role IN ('from', 'to', 'cc', 'bcc') AND ${matches(entry, rulebook)})`,
    most,
  );
}

async function newestOf(tx: Tx, which: SQL, most: number): Promise<{ ids: number[]; concerned: number }> {
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`
    WITH found AS MATERIALIZED (SELECT e.id, e.sent_at FROM emails e WHERE ${which})
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
    return `${entry.value} is one of ours. Internal mail is kept out by its own rule; this entry would do nothing.`;
  if (entry.kind === 'domain' && rulebook.isPublicProvider(domain))
    return `${domain} is a public mail provider: customers who write from a private address there would be kept out as well.`;
  return null;
}
