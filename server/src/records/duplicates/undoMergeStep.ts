import { z } from 'zod';
import { concernsMail } from '../../base/concerned';
import { isRefusal } from '../../base/refusal';
import type { Undoer } from '../../base/undoLog';
import { undoMerge } from './mergeRecords';

const merged = z.object({ mergeId: z.number() });

/** Two records that were merged are parted again as they were. */
export const undoMergeStep: Undoer<z.output<typeof merged>> = {
  kind: 'merge',
  payload: merged,
  undo: async ({ database, jobs }, doer, { mergeId }) => {
    const undone = await database.work((tx) => undoMerge(tx, doer, mergeId));
    if (isRefusal(undone)) return undone;
    if (concernsMail(undone.mail)) await jobs.decideConcerned(undone.mail);
    return { changed: 2, kept: [] };
  },
};
