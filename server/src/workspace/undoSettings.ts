import { sql } from 'drizzle-orm';
import { automaticSending, measuring, recordReach, shareLevel, writingRights } from '@fulvet/contract';
import type { Undone, Workspace } from '@fulvet/contract';
import { isDeepStrictEqual } from 'node:util';
import { z } from 'zod';
import { writeDown } from '../base/audit';
import { Refusal, isRefusal } from '../base/refusal';
import type { Undoer } from '../base/undoLog';
import { workspaceOf } from './workspaceSettings';

const plain = z.object({
  name: z.string(),
  recordReach,
  widestShare: shareLevel,
  secondFactorNeeded: z.boolean(),
  // Steps from before there were such settings do not have them.
  writingRights: writingRights.optional(),
  automatic: automaticSending.optional(),
  measuring: measuring.optional(),
});
const settings = z.object({ before: plain, after: plain });

/** Settings say again what they said before. How members sign in at a provider is no part of it: its secret is not kept. */
export const undoSettings: Undoer<z.output<typeof settings>> = {
  kind: 'settings',
  forAdministrators: 'Settings are for administrators.',
  payload: settings,
  undo: async ({ database }, doer, { before, after }) => {
    return database.as(doer.id, async (tx): Promise<Undone | Refusal> => {
      const now = await workspaceOf(tx);
      if (isRefusal(now)) return now;
      // What the step does not know of may have changed since.
      const asStep = {
        ...now,
        writingRights: after.writingRights && now.writingRights,
        automatic: after.automatic && now.automatic,
        measuring: after.measuring && now.measuring,
      };
      if (!isDeepStrictEqual(plainOf(asStep), plainOf(after)))
        return new Refusal('conflict', 'changed-since', 'Settings were changed again since. Nothing was undone.');
      await tx.execute(
        sql`UPDATE workspace SET name = ${before.name}, record_reach = ${before.recordReach}, widest_share = ${before.widestShare}, second_factor_needed = ${before.secondFactorNeeded},
          writing_rights = coalesce(${before.writingRights ? JSON.stringify(before.writingRights) : null}::jsonb, writing_rights),
          automatic = coalesce(${before.automatic ? JSON.stringify(before.automatic) : null}::jsonb, automatic),
          measuring = coalesce(${before.measuring ? JSON.stringify(before.measuring) : null}::jsonb, measuring)`,
      );
      await writeDown(tx, doer, { kind: 'settings', about: 'settings are as they were before the last change' });
      return { changed: 1, kept: [] };
    });
  },
};

/** What of the settings can be undone. */
export const plainOf = ({
  name,
  recordReach: reach,
  widestShare,
  secondFactorNeeded,
  writingRights: rights,
  automatic,
  measuring: measures,
}: z.output<typeof plain> | Workspace) => ({
  name,
  recordReach: reach,
  widestShare,
  secondFactorNeeded,
  ...(rights ? { writingRights: rights } : {}),
  ...(automatic ? { automatic } : {}),
  ...(measures ? { measuring: measures } : {}),
});
