import type { Undone, User } from '@fulvet/contract';
import { z } from 'zod';
import { decideFor } from '../../base/concerned';
import type { Refusal } from '../../base/refusal';
import { isRefusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import type { Undoer } from '../../base/undoLog';
import { undoMerge } from './undoMerge';

const merged = z.object({ mergeId: z.number() });

/** Parts two records that were merged as they were, and has the mail that it concerns decided again. */
export async function partRecords(services: Services, doer: User, mergeId: number): Promise<Undone | Refusal> {
  const undone = await services.database.work((tx) => undoMerge(tx, doer, mergeId));
  if (isRefusal(undone)) return undone;
  await decideFor(services, undone.mail);
  return { changed: 2, kept: [] };
}

export const undoMergeStep: Undoer<z.output<typeof merged>> = {
  kind: 'merge',
  payload: merged,
  undo: (services, doer, { mergeId }) => partRecords(services, doer, mergeId),
};
