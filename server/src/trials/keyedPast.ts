import type { CompiledRulebook, CompiledStep } from '@fulvet/core';
import { canonicalJson, domainOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { bigints } from '../base/db/copyRows';
import type { Database, Tx } from '../base/db/database';
import { mayBePersonIn } from '../base/db/personKey';
import { idRow, manyRowsOf, rowsOf } from '../base/db/rows';
import type { Sources } from '../base/reading/sources';
import { LeanReader } from '../decision/inputs/leanFacts';
import { loadDirectory } from '../decision/inputs/loadDirectory';
import type { StoredEmail } from '../decision/inputs/loadFacts';
import { liveRulebook } from '../rulebook/liveRulebook';
import type { PastMail } from './pastMail';
import { makePastMail } from './pastMail';

/** Where the conversations in question have more emails than this, past mail is read as a whole instead. */
const MOST_EMAILS = 4000;
/** Rules that name more addresses and domains than this are not looked up by each. */
const MOST_KEYS = 2000;

const totalRow = z.object({ total: z.number() });

/**
 * The past mail on which rules can speak that need an address or a domain: found by the indexes of the database, whole conversations of it,
 * without reading all mail.
 *
 * @param rulebook tells who is outside
 * @returns null where a rule can speak without a key, where there is very much such mail, or where the rulebook in force has another notion of who is outside
 */
export async function keyedPast(
  database: Database,
  blobs: Sources,
  rulebook: CompiledRulebook,
  rules: readonly CompiledStep<unknown>[],
): Promise<PastMail | null> {
  const keys = new Set<string>();
  for (const rule of rules) {
    const its = rule.keys();
    if (its === null || its.size > MOST_KEYS) return null;
    for (const key of its) keys.add(key);
  }
  const live = await liveRulebook(database);
  if (canonicalJson(live.compiled.source.us) !== canonicalJson(rulebook.source.us)) return null;
  return database.work(
    async (tx) => {
      const ids = await emailsWithKeys(tx, [...keys]);
      if (ids === null) return null;
      const stored: StoredEmail[] = [];
      if (ids.length > 0) {
        const needs = { text: rules.some((rule) => rule.needs('body')), attachments: true };
        const reader = await LeanReader.open(database, tx, blobs, { needs, toKeep: false });
        for await (const found of reader.stream(tx, sql`e.id = ANY(${bigints(ids)})`)) stored.push(...found.map(({ email }) => email));
      }
      const place = new Map(ids.map((id, at) => [id, at]));
      stored.sort((first, second) => (place.get(first.facts.id) ?? 0) - (place.get(second.facts.id) ?? 0));
      const directory = await loadDirectory(
        tx,
        stored.map(({ facts }) => facts),
        [rulebook],
        [],
      );
      const [row] = await rowsOf(
        tx,
        totalRow,
        sql`SELECT ((SELECT count(*) FROM emails) - (SELECT count(*) FROM emails WHERE outcome = 'sealed'))::int AS total`,
      );
      return { ...(await makePastMail(stored, directory, rulebook, row?.total ?? 0)), textsFrom: 0 };
    },
    { accessMode: 'read only', isolationLevel: 'repeatable read' },
  );
}

/** The emails, in order of date, of all conversations with these addresses and domains and those below them; null where there are too many. */
async function emailsWithKeys(tx: Tx, keys: readonly string[]): Promise<number[] | null> {
  const addresses = keys.filter((key) => key.startsWith('@')).map((key) => key.slice(1));
  const domains = keys.filter((key) => !key.startsWith('@'));
  // What is kept out has no addresses any more, and what is undecided no external domains yet.
  const rows = await manyRowsOf(
    tx,
    idRow,
    sql`
    WITH named AS MATERIALIZED (SELECT s.domain FROM seen_domains s WHERE s.domain = ANY(${sql.param(domains)}::text[])
        UNION SELECT s.domain FROM unnest(${sql.param(domains)}::text[]) k(domain) JOIN LATERAL (SELECT s.domain FROM seen_domains s
          WHERE reverse(s.domain) ~>=~ reverse('.' || k.domain) AND reverse(s.domain) ~<~ (reverse('.' || k.domain) || chr(127))) s ON true),
      found AS MATERIALIZED (
        (SELECT e.conversation_id FROM emails e WHERE e.external_domains && ARRAY(SELECT n.domain FROM named n) LIMIT ${MOST_EMAILS + 1})
        UNION (SELECT e.conversation_id FROM participants p JOIN emails e ON e.id = p.email_id WHERE ${mayBePersonIn(sql`p.address`, sql`${sql.param(addresses)}::text[]`)} LIMIT ${MOST_EMAILS + 1})
        UNION (SELECT e.conversation_id FROM emails e WHERE e.outcome = 'kept out' AND e.external_domains && ${sql.param(addresses.map((address) => domainOf(address)))}::text[] LIMIT ${MOST_EMAILS + 1})
        UNION (SELECT e.conversation_id FROM emails e JOIN participants p ON p.email_id = e.id WHERE e.decided_at IS NULL
          AND EXISTS (SELECT FROM unnest(${sql.param(domains)}::text[]) k(domain) WHERE p.domain = k.domain OR right(p.domain, length(k.domain) + 1) = '.' || k.domain) LIMIT ${MOST_EMAILS + 1}))
    SELECT x.id FROM found f CROSS JOIN LATERAL (SELECT e.id, e.sent_at FROM emails e WHERE e.conversation_id = f.conversation_id AND e.outcome IS DISTINCT FROM 'sealed') x
    ORDER BY x.sent_at, x.id LIMIT ${MOST_EMAILS + 1}`,
  );
  return rows.length > MOST_EMAILS ? null : rows.map((row) => row.id);
}
