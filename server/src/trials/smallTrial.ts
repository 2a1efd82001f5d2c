import { idRow, rowsOf } from '../base/db/rows';
import { compareDecision } from '@fulvet/core';
import type { CompiledRulebook, RecordKind, Records } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Sources } from '../base/reading/sources';
import type { Database } from '../base/db/database';
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

/** Decides the newest mail with a domain or an address by one rulebook and by another, and counts what differs. It stores nothing. */
export async function smallTrial(
  database: Database,
  blobs: Sources,
  about: string,
  { live, changed, more = [], records = (it) => it }: WhatChanges,
): Promise<SmallTrial> {
  return database.work(
    async (tx) => {
      const rows = await rowsOf(
        tx,
        idRow,
        sql`
        SELECT id FROM (SELECT e.id, e.sent_at FROM emails e WHERE e.outcome <> 'sealed' AND ${isAbout(about)} ORDER BY e.sent_at DESC LIMIT ${MOST_EMAILS}) n ORDER BY sent_at, id`,
      );
      const ids = rows.map((row) => row.id);
      const asked = new Set(ids);
      const all = await conversationsOf(tx, ids, MOST_WITH_CONVERSATIONS);
      const inputs = await loadInputs(tx, blobs, all, [live, changed], { memories: new Map(), about: more });
      const before = decideOtherwise(inputs, () => live);
      const after = decideOtherwise({ ...inputs, records: records(inputs.records) }, () => changed);
      const trial: SmallTrial = { emails: ids.length, changed: 0, filed: 0, unfiled: 0, keptOut: 0, created: 0 };
      const created = new Set<string>();
      before.forEach(({ email, decision: was }, at) => {
        const is = after[at]?.decision;
        if (!is || !asked.has(email.facts.id)) return;
        for (const creation of is.creations)
          if (!was.creations.some((it) => it.address === creation.address && it.domain === creation.domain))
            created.add(`${creation.kind} ${creation.address ?? creation.domain}`);
        const keys = (filings: readonly { kind: string; id: number }[]): string[] => filings.map((filing) => `${filing.kind}:${filing.id}`);
        const standing = { outcome: was.outcome, visibility: was.visibility, filings: keys(was.filings), stops: was.docket };
        if (compareDecision(standing, { ...is, sharedTeams: was.sharedTeams, existenceOnly: false }) === null) return;
        trial.changed += 1;
        if (was.filings.length === 0 && is.filings.length > 0) trial.filed += 1;
        if (was.filings.length > 0 && is.filings.length === 0) trial.unfiled += 1;
        if (was.outcome !== 'kept out' && is.outcome === 'kept out') trial.keptOut += 1;
      });
      return { ...trial, created: created.size };
    },
    { accessMode: 'read only' },
  );
}

const isAbout = (about: string): SQL =>
  about.includes('@')
    ? sql`EXISTS (SELECT FROM participants p WHERE p.email_id = e.id AND p.address = ${about})`
    : sql`e.external_domains @> ARRAY[${about}]::text[]`;
