import type { RuleChanges } from '@fulvet/contract';
import type { CompiledRulebook, Outcome } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Database } from '../base/db/database';
import { idRow, rowsOf } from '../base/db/rows';
import type { Sources } from '../base/reading/sources';
import { emailRows } from '../emails/emailRows';
import { decideTwice } from './smallTrial';

const EXAMPLES = 8;

/**
 * Decides the newest of these emails by the draft as it is and by the draft with an edited rule, and says what differs. Sealed emails are left out. It
 * stores nothing. The numbers are about all mail; the examples are what the reader may know of.
 */
export async function whatRuleChanges(
  database: Database,
  blobs: Sources,
  readerId: number,
  about: readonly number[],
  rulebooks: { live: CompiledRulebook; changed: CompiledRulebook },
  most: number,
): Promise<RuleChanges> {
  const { ids, different, created } = await database.work(
    async (tx) => {
      const rows = await rowsOf(
        tx,
        idRow,
        sql`SELECT id FROM (SELECT id, sent_at FROM emails WHERE id = ANY(${sql.param([...about])}::bigint[]) AND outcome IS DISTINCT FROM 'sealed'
          ORDER BY sent_at DESC, id DESC LIMIT ${most}) n ORDER BY sent_at, id`,
      );
      const ids = rows.map((row) => row.id);
      return { ids, ...(await decideTwice(tx, blobs, ids, rulebooks)) };
    },
    { accessMode: 'read only' },
  );
  const moves = new Map<string, RuleChanges['moves'][number]>();
  for (const { was, is } of different) {
    const key = `${was.outcome} ${is.outcome}`;
    const move = moves.get(key) ?? { before: was.outcome, after: is.outcome, emails: 0 };
    move.emails += 1;
    moves.set(key, move);
  }
  const newest = different.slice(-EXAMPLES).reverse();
  const shown = await database.as(readerId, (tx) =>
    emailRows(
      tx,
      newest.map(({ emailId }) => emailId),
      rulebooks.live,
    ),
  );
  const seen = (how: 'newly' | 'no longer'): number => different.filter(({ difference }) => difference.seen === how).length;
  return {
    tried: ids.length,
    changed: different.length,
    moves: [...moves.values()].sort((first, second) => second.emails - first.emails),
    newlySeen: seen('newly'),
    noLongerSeen: seen('no longer'),
    created,
    examples: newest.flatMap(({ emailId, was, is, difference }) => {
      const email = shown.find(({ id }) => id === emailId);
      return email ? [{ email, before: was.outcome as Outcome, after: is.outcome, seen: difference.seen }] : [];
    }),
  };
}
