import { idRow, rowsOf } from '../base/db/rows';
import { compareDecision, visibilityKey } from '@fulvet/core';
import type { CompiledRulebook, Decision, Difference, RecordKind, Records } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Sources } from '../base/reading/sources';
import type { Database, Tx } from '../base/db/database';
import { decideOtherwise } from '../decision/decideOtherwise';
import { conversationsOf, loadInputs } from '../decision/inputs/loadInputs';

const MOST_EMAILS = 200;
const MOST_WITH_CONVERSATIONS = 1_000;

/** What a rule would do to the mail that it is about. */
export interface SmallTrial {
  emails: number;
  changed: number;
  /** Emails that would come to stand under a record, and that would no longer. */
  filed: number;
  unfiled: number;
  /** Emails that would be kept out and are not. */
  keptOut: number;
  created: number;
}

/** Two rulebooks, and what else differs. */
interface WhatChanges {
  live: CompiledRulebook;
  changed: CompiledRulebook;
  /** Records that are asked about beside those that the emails lead to. */
  more?: readonly { kind: RecordKind; id: number }[];
  /** The records as they would be. */
  records?: (records: Records) => Records;
}

/** An email that two rulebooks decide in different ways. */
export interface DecidedTwice {
  emailId: number;
  was: Decision;
  is: Decision;
  difference: Difference;
}

/** Decides emails by one rulebook and by another. It stores nothing. @param ids in order of date */
export async function decideTwice(
  tx: Tx,
  blobs: Sources,
  ids: readonly number[],
  { live, changed, more = [], records = (it) => it }: WhatChanges,
): Promise<{ different: DecidedTwice[]; created: number }> {
  const asked = new Set(ids);
  const all = await conversationsOf(tx, ids, MOST_WITH_CONVERSATIONS);
  const inputs = await loadInputs(tx, blobs, all, [live, changed], { memories: new Map(), about: more });
  const before = decideOtherwise(inputs, () => live);
  const after = decideOtherwise({ ...inputs, records: records(inputs.records) }, () => changed);
  const created = new Set<string>();
  const keys = (filings: readonly { kind: string; id: number }[]): string[] => filings.map((filing) => `${filing.kind}:${filing.id}`);
  const different = before.flatMap(({ email, decision: was }, at): DecidedTwice[] => {
    const is = after[at]?.decision;
    if (!is || !asked.has(email.facts.id)) return [];
    for (const creation of is.creations)
      if (!was.creations.some((it) => it.address === creation.address && it.domain === creation.domain))
        created.add(`${creation.kind} ${creation.address ?? creation.domain}`);
    const standing = { outcome: was.outcome, visibility: visibilityKey(was), filings: keys(was.filings), steps: was.docket };
    const difference = compareDecision(standing, is);
    return difference === null ? [] : [{ emailId: email.facts.id, was, is, difference }];
  });
  return { different, created: created.size };
}

/** Decides the newest mail with a domain or an address by one rulebook and by another, and counts what differs. It stores nothing. */
export async function smallTrial(database: Database, blobs: Sources, about: string, what: WhatChanges): Promise<SmallTrial> {
  return database.work(
    async (tx) => {
      const rows = await rowsOf(
        tx,
        idRow,
        sql`
        SELECT id FROM (SELECT e.id, e.sent_at FROM emails e WHERE e.outcome <> 'sealed' AND ${isAbout(about)} ORDER BY e.sent_at DESC LIMIT ${MOST_EMAILS}) n ORDER BY sent_at, id`,
      );
      const ids = rows.map((row) => row.id);
      const { different, created } = await decideTwice(tx, blobs, ids, what);
      const how = (holds: (was: Decision, is: Decision) => boolean): number => different.filter(({ was, is }) => holds(was, is)).length;
      return {
        emails: ids.length,
        changed: different.length,
        filed: how((was, is) => was.filings.length === 0 && is.filings.length > 0),
        unfiled: how((was, is) => was.filings.length > 0 && is.filings.length === 0),
        keptOut: how((was, is) => was.outcome !== 'kept out' && is.outcome === 'kept out'),
        created,
      };
    },
    { accessMode: 'read only' },
  );
}

const isAbout = (about: string): SQL =>
  about.includes('@')
    ? sql`EXISTS (SELECT FROM participants p WHERE p.email_id = e.id AND p.address = ${about})`
    : sql`e.external_domains @> ARRAY[${about}]::text[]`;
