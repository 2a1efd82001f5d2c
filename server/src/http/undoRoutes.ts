import type { Handlers } from '../base/handler';
import { stepsOf, undoStep } from '../base/undoLog';
import type { Undoer } from '../base/undoLog';
import { undoKeepOut } from '../decision/undoKeepOut';
import { undoMergeStep } from '../records/duplicates/undoMergeStep';
import { undoImport } from '../records/import/undoImport';
import { undoCreate } from '../records/undoCreate';
import { undoDealPeople } from '../records/undoDealPeople';
import { undoEdit } from '../records/undoEdit';
import { undoHandOver } from '../records/undoHandOver';
import { undoRepairStep } from '../repairs/undoRepairStep';

/** What takes back the steps of each kind. */
const UNDOERS = [undoKeepOut, undoEdit, undoCreate, undoHandOver, undoDealPeople, undoImport, undoRepairStep, undoMergeStep] as Undoer[];

export const undoRoutes: Pick<Handlers, 'listUndo' | 'undo'> = {
  listUndo: ({ user, services }) => services.database.as(user.id, async (tx) => ({ steps: await stepsOf(tx) })),

  undo: ({ user, params, services }) => undoStep(services, user, params.id, UNDOERS),
};
