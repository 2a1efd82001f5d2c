import { sql } from 'drizzle-orm';
import type { Undone } from '@fulvet/contract';
import { parsedRulebook } from '@fulvet/core';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { rulebookDraft } from '../base/db/schema';
import { Refusal, isRefusal } from '../base/refusal';
import { noteStep } from '../base/undoLog';
import type { Undoer } from '../base/undoLog';
import { keepDraft, loadDraft } from './draft';
import type { Draft } from './draft';

const edited = z.object({ before: z.unknown().describe('Null where there was no draft.'), after: z.unknown() });
/** A draft is edited often, and is large: older edits are let go of. */
const MOST_KEPT = 50;
const CHANGED = 'The draft was changed since. Nothing was undone.';

/** The draft says again what it said before an edit, or is there again. */
export const undoDraft: Undoer<z.output<typeof edited>> = {
  kind: 'draft',
  forAdministrators: 'The rulebook is for administrators.',
  payload: edited,
  undo: async ({ database }, doer, { before, after }) => {
    return database.as(doer.id, async (tx): Promise<Undone | Refusal> => {
      const now = await loadDraft(tx);
      if (!(await isSame(tx, standing(now), after))) return new Refusal('conflict', 'changed-since', CHANGED);
      if (before === null) await tx.delete(rulebookDraft);
      else {
        const refused = await keepDraft(tx, doer.id, parsedRulebook(before), now.revision);
        if (isRefusal(refused)) return refused;
      }
      return { changed: 1, kept: [] };
    });
  },
};

/** Notes what became of the draft. @returns the step, or null where it says the same as before */
export async function noteDraft(tx: Tx, userId: number, before: Draft): Promise<number | null> {
  const after = standing(await loadDraft(tx));
  if (await isSame(tx, standing(before), after)) return null;
  const summary = after === null ? 'Threw the draft of the rulebook away' : 'Edited the draft of the rulebook';
  const step = await noteStep(tx, userId, undoDraft, { summary, payload: { before: standing(before), after } });
  await tx.execute(
    sql`DELETE FROM undo_log WHERE kind = 'draft' AND id <= (SELECT id FROM undo_log WHERE kind = 'draft' ORDER BY id DESC OFFSET ${MOST_KEPT} LIMIT 1)`,
  );
  return step;
}

const standing = ({ revision, rulebook }: Draft): unknown => (revision === 0 ? null : rulebook);

async function isSame(tx: Tx, one: unknown, other: unknown): Promise<boolean> {
  const { rowCount } = await tx.execute(sql`SELECT WHERE ${JSON.stringify(one)}::jsonb = ${JSON.stringify(other)}::jsonb`);
  return rowCount === 1;
}
