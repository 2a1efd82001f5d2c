import { z } from 'zod';
import { id, moment, recordKind } from './values';

/** What can be undone. */
export const UNDO_KINDS = [
  'keepOut',
  'edit',
  'create',
  'handOver',
  'dealPeople',
  'recordImport',
  'mailImport',
  'repair',
  'merge',
  'pastRun',
  'ownKeepOut',
  'draft',
  'list',
  'settings',
  'sample',
  'tasks',
] as const;

export const undoStep = z.object({
  id,
  kind: z.enum(UNDO_KINDS),
  summary: z.string(),
  at: moment,
  by: z.string(),
  undone: z.boolean(),
});

export const undone = z.object({
  changed: z.number().int().describe('Records or emails that are as before again.'),
  kept: z
    .array(z.object({ kind: z.union([recordKind, z.enum(['email', 'task'])]), id, name: z.string(), because: z.string() }))
    .describe('What stays as it is by now, since something else was built on it.'),
});

export type UndoKind = (typeof UNDO_KINDS)[number];
export type UndoStep = z.infer<typeof undoStep>;
export type Undone = z.infer<typeof undone>;

/** The step that undoes what was just done; null where nothing was changed. */
export const undoable = z.object({ undo: id.nullable() });
