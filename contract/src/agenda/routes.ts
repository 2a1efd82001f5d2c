import { z } from 'zod';
import { idParam } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { cursor, id, recordKey } from '../base/values';
import { task, taskChange, taskContent } from './shapes';

const kept = z.array(z.object({ id, name: z.string(), because: z.string() })).describe('What stays as it is, and why.');

export const agendaRoutes = {
  listTasks: {
    method: 'get',
    path: '/tasks',
    access: EDITORS,
    summary: 'Tasks that the reader may see: what is due first, or what was done last',
    query: z.object({
      who: z.enum(['me', 'all']).default('me').describe('me: those that the reader is to do.'),
      state: z.enum(['open', 'done']).default('open'),
      due: z.enum(['now']).optional().describe('now: those due today or before.'),
      record: recordKey.optional().describe('Those of this record, such as `deal:7`; of an account with those of its people and deals.'),
      emailId: z.coerce.number().int().positive().optional(),
      after: cursor.optional(),
      limit: z.coerce.number().int().min(1).max(200).default(100),
    }),
    response: z.object({ tasks: z.array(task), next: z.string().nullable() }),
  },
  exportTasks: {
    method: 'get',
    path: '/tasks/export',
    access: EDITORS,
    summary: 'The tasks that the reader is to do, as iCalendar (VTODO)',
    query: z.object({}),
    response: { mediaType: 'text/calendar' },
  },
  createTask: {
    method: 'post',
    path: '/tasks',
    access: EDITORS,
    summary: 'Write down what is to be done',
    body: taskContent,
    response: task,
    errors: ['no-such-member'],
  },
  changeTasks: {
    method: 'post',
    path: '/tasks/change',
    access: EDITORS,
    summary: 'Say that tasks are done, move them to another day, hand them over, remove them, or take one of these back',
    body: z.strictObject({ ids: z.array(id).min(1).max(500), change: taskChange }),
    response: z.object({ changed: z.number().int(), kept, undo: id.nullable(), next: z.array(task).describe('Those that came back.') }),
    errors: ['no-such-member'],
  },
  saveTask: {
    method: 'put',
    path: '/tasks/{id}',
    access: EDITORS,
    summary: 'Change a task',
    params: idParam,
    body: z.strictObject({ revision: z.number().int().min(0), content: taskContent }),
    response: task,
    errors: ['no-such-member', 'not-yours', 'changed-meanwhile'],
  },
} as const satisfies Record<string, RouteShape>;
