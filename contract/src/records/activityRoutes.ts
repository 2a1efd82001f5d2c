import { z } from 'zod';
import { idParam } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { activity, activityContent } from './activityShapes';

export const activityRoutes = {
  logActivity: {
    method: 'post',
    path: '/activities',
    access: EDITORS,
    summary: 'Write down a call, meeting, letter, message or note, for the history of records',
    body: activityContent,
    response: activity,
    errors: ['in-the-future'],
  },
  changeActivity: {
    method: 'put',
    path: '/activities/{id}',
    access: EDITORS,
    summary: 'Change what one wrote down; what it said before is kept',
    params: idParam,
    body: z.strictObject({ revision: z.number().int().min(0), content: activityContent }),
    response: activity,
    errors: ['in-the-future', 'not-yours', 'changed-meanwhile'],
  },
  removeActivity: {
    method: 'post',
    path: '/activities/{id}/remove',
    access: EDITORS,
    summary: 'Remove what one wrote down, or put it back',
    params: idParam,
    body: z.strictObject({ removed: z.boolean() }),
    response: z.object({}),
  },
} as const satisfies Record<string, RouteShape>;
