import { z } from 'zod';
import { isRefusal } from '../base/refusal';
import type { Undoer } from '../base/undoLog';
import { undoRepair } from './undoRepair';

const repaired = z.object({ repairId: z.number() });

/** What was put right by hand is taken back. */
export const undoRepairStep: Undoer<z.output<typeof repaired>> = {
  kind: 'repair',
  payload: repaired,
  undo: async (services, doer, { repairId }) => {
    const undone = await undoRepair(services, doer, repairId);
    return isRefusal(undone) ? undone : { changed: undone.changed, kept: undone.kept };
  },
};
