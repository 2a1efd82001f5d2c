import { z } from 'zod';
import { emailIds } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { unknownPeopleGroup } from './duplicateShapes';
import { outsider } from './shapes';

export const peopleRoutes = {
  listUnknownPeople: {
    method: 'get',
    path: '/unknown-people',
    access: EDITORS,
    summary: 'People and external companies with whom we truly correspond and who are in no record, ranked by exchange both ways',
    query: z.object({
      days: z.coerce.number().int().min(1).max(3650).default(365),
      whose: z.enum(['mine', 'all']).default('all'),
      limit: z.coerce.number().int().min(1).max(300).default(100),
    }),
    response: z.object({ groups: z.array(unknownPeopleGroup), people: z.number().int() }),
  },
  outsiders: {
    method: 'get',
    path: '/outsiders',
    access: EDITORS,
    summary: 'The external people who take part in these emails, with what a record of them would say',
    query: z.object({ emails: emailIds }),
    response: z.object({
      people: z.array(outsider),
      subject: z.string().nullable().describe('What the first of the emails is about; null where the reader may not read it.'),
    }),
  },
} as const satisfies Record<string, RouteShape>;
