import { z } from 'zod';
import type { RouteShape } from './route';
import { idParam } from './params';
import { EVERYBODY } from './route';
import { undone, undoStep } from './undoShapes';

export const baseRoutes = {
  streamChanges: {
    method: 'get',
    path: '/changes',
    access: EVERYBODY,
    summary: 'What changes, as server-sent events: which histories, mailboxes and background work, never what an email says',
    response: { mediaType: 'text/event-stream' },
  },
  listUndo: {
    method: 'get',
    path: '/undo',
    access: EVERYBODY,
    summary: 'Your own steps that can be undone, the latest first; for administrators those of the keep-out list, too',
    response: z.object({ steps: z.array(undoStep) }),
  },
  undo: {
    method: 'post',
    path: '/undo/{id}',
    access: EVERYBODY,
    summary: 'Undo a step, as far as nothing else was built on it',
    params: idParam,
    response: undone,
    errors: ['undone-already', 'changed-since'],
  },
  openApi: { method: 'get', path: '/openapi.json', access: 'public', summary: 'This description', response: z.unknown() },
} as const satisfies Record<string, RouteShape>;
