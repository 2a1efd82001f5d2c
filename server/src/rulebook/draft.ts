import { rulebookDraft } from '../base/db/schema';
import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal } from '../base/refusal';
import type { DraftState } from '@fulvet/contract';
import { differenceWords, parsedRulebook } from '@fulvet/core';
import type { ListNames, Rulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Db, Tx } from '../base/db/database';
import { takeRulebookLock } from './rulebookLock';
import { storedRulebook } from './liveRulebook';

/** The draft, or what is in force while nothing is edited. */
export interface Draft {
  rulebook: Rulebook;
  live: Rulebook;
  liveVersion: number;
  baseVersion: number;
  revision: number;
  at: string | null;
  by: string | null;
}

const rulebookDraftRow = z.object({
  document: z.unknown(),
  base_version: z.number(),
  revision: z.number(),
  edited_at: moment,
  by: z.string().nullable(),
});

export async function loadDraft(db: Db | Tx): Promise<Draft> {
  const { version: liveVersion, rulebook: live } = await storedRulebook(db);
  const rows = await rowsOf(
    db,
    rulebookDraftRow,
    sql`SELECT d.document, d.base_version, d.revision, d.edited_at, u.name AS by FROM rulebook_draft d LEFT JOIN users u ON u.id = d.edited_by`,
  );
  const row = rows[0];
  if (!row) return { rulebook: live, live, liveVersion, baseVersion: liveVersion, revision: 0, at: null, by: null };
  return {
    rulebook: parsedRulebook(row.document),
    live,
    liveVersion,
    baseVersion: row.base_version,
    revision: row.revision,
    at: row.edited_at,
    by: row.by,
  };
}

const addressListRow = z.object({ id: z.string(), name: z.string() });

export async function listNames(db: Db | Tx): Promise<ListNames> {
  const rows = await rowsOf(db, addressListRow, sql`SELECT id, name FROM address_lists`);
  return new Map(rows.map((row) => [row.id, row.name]));
}

export async function draftState(db: Db | Tx): Promise<DraftState> {
  const draft = await loadDraft(db);
  return {
    document: draft.rulebook,
    baseVersion: draft.baseVersion,
    liveVersion: draft.liveVersion,
    revision: draft.revision,
    differences: draft.revision === 0 ? [] : differenceWords(draft.live, draft.rulebook, await listNames(db)),
    at: draft.at,
    by: draft.by,
  };
}

/** Keeps a draft. @returns the one that stood before; a refusal when another revision is kept than the one that was edited */
export async function keepDraft(tx: Tx, userId: number, rulebook: Rulebook, revision: number): Promise<Draft | Refusal> {
  await takeRulebookLock(tx);
  const before = await demandRevision(tx, revision);
  if (isRefusal(before)) return before;
  await tx.execute(sql`INSERT INTO rulebook_draft (document, base_version, revision, edited_by) VALUES (${JSON.stringify(rulebook)}::jsonb, ${before.liveVersion}, 1, ${userId})
    ON CONFLICT (id) DO UPDATE SET document = excluded.document, revision = rulebook_draft.revision + 1, edited_by = excluded.edited_by, edited_at = now()`);
  return before;
}

/** Makes a change that was put in force at once in the draft as well, so that both go on from the same. */
export async function changeDraftToo(tx: Tx, version: number, change: (rulebook: Rulebook) => Rulebook): Promise<void> {
  const draft = await loadDraft(tx);
  if (draft.revision === 0) return;
  await tx.execute(
    sql`UPDATE rulebook_draft SET document = ${JSON.stringify(change(draft.rulebook))}::jsonb, base_version = ${version}, revision = revision + 1`,
  );
}

export async function demandRevision(tx: Tx, revision: number): Promise<Draft | Refusal> {
  const draft = await loadDraft(tx);
  if (draft.revision !== revision)
    return new Refusal(
      'conflict',
      'changed-meanwhile',
      `The draft was changed meanwhile${draft.by ? ` by ${draft.by}` : ''}. Look at it, then edit again.`,
    );
  return draft;
}

/** Throws the draft away. */
export async function deleteDraft(tx: Tx): Promise<void> {
  await tx.delete(rulebookDraft);
}

/** The draft goes on over the newest version that is in force for everyone. */
export async function rebaseDraft(tx: Tx): Promise<void> {
  await tx.execute(sql`UPDATE rulebook_draft SET base_version = (SELECT max(version) FROM rulebooks WHERE pilot_mailboxes IS NULL)`);
}
