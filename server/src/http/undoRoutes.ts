import type { Handlers } from '../base/handler';
import { stepsOf, undoStep } from '../base/undoLog';
import type { Undoer } from '../base/undoLog';
import { undoKeepOut } from '../decision/undoKeepOut';
import { undoOwnKeepOut } from '../decision/undoOwnKeepOut';
import { undoRunStep } from '../decision/past/undoRunStep';
import { undoDraft } from '../rulebook/undoDraft';
import { undoList } from '../rulebook/lists/undoList';
import { undoTasks } from '../agenda/changeTasks';
import { undoSample } from '../workspace/sample/undoSample';
import { undoSettings } from '../workspace/undoSettings';
import { undoMergeStep } from '../records/duplicates/undoMergeStep';
import { undoImport } from '../records/import/undoImport';
import { undoCreate } from '../records/undoCreate';
import { undoDealPeople } from '../records/undoDealPeople';
import { undoEdit } from '../records/undoEdit';
import { undoHandOver } from '../records/undoHandOver';
import { undoMailImport } from '../mailboxes/files/undoMailImport';
import { undoRepairStep } from '../repairs/undoRepairStep';

/** What takes back the steps of each kind. */
const UNDOERS = [
  undoKeepOut,
  undoEdit,
  undoCreate,
  undoHandOver,
  undoDealPeople,
  undoImport,
  undoMailImport,
  undoRepairStep,
  undoMergeStep,
  undoRunStep,
  undoOwnKeepOut,
  undoDraft,
  undoList,
  undoSettings,
  undoSample,
  undoTasks,
] as Undoer[];

export const undoRoutes: Pick<Handlers, 'listUndo' | 'undo'> = {
  listUndo: ({ user, services }) => services.database.as(user.id, async (tx) => ({ steps: await stepsOf(tx) })),

  undo: ({ user, params, services }) => undoStep(services, user, params.id, UNDOERS),
};
