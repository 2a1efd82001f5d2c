import { z } from 'zod';
import { idParam } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { bulkOrder, bulkPreview, bulkSend } from './bulkShapes';

export const bulkRoutes = {
  previewBulk: {
    method: 'post',
    path: '/bulk/preview',
    access: EDITORS,
    heavy: true,
    summary: 'Who would get an email to the people of a list, and who is left out and why',
    body: bulkOrder,
    response: bulkPreview,
    errors: ['may-not-send', 'no-link-address', 'not-published', 'too-many'],
  },
  startBulk: {
    method: 'post',
    path: '/bulk',
    access: EDITORS,
    heavy: true,
    sends: true,
    summary: 'Send an email to the people of a list, each their own, one after the other',
    body: bulkOrder.extend({
      people: z.number().int().describe('As many as the preview said; where it is another number by now, nothing is sent.'),
    }),
    response: bulkSend,
    errors: ['may-not-send', 'no-mailbox', 'agree-first', 'no-link-address', 'not-published', 'too-many', 'changed-meanwhile', 'no-one'],
  },
  listBulk: {
    method: 'get',
    path: '/bulk',
    access: EDITORS,
    summary: 'Emails to many that the reader sends or has sent, the newest first',
    response: z.object({ sends: z.array(bulkSend) }),
  },
  stopBulk: {
    method: 'post',
    path: '/bulk/{id}/stop',
    access: EDITORS,
    summary: 'Send nothing more of an email to many',
    params: idParam,
    response: bulkSend,
  },
} as const satisfies Record<string, RouteShape>;
