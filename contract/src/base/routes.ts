import { z } from 'zod';
import type { RouteShape } from './route';
import { EVERYBODY } from './route';

export const baseRoutes = {
  streamChanges: {
    method: 'get',
    path: '/changes',
    access: EVERYBODY,
    summary: 'What changes, as server-sent events: which histories and mailboxes, never what an email says',
    response: { mediaType: 'text/event-stream' },
  },
  openApi: { method: 'get', path: '/openapi.json', access: 'public', summary: 'This description', response: z.unknown() },
} as const satisfies Record<string, RouteShape>;
