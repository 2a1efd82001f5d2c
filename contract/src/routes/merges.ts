import { z } from 'zod';
import type { RouteShape } from '../route';
import { EDITORS } from '../route';
import * as s from '../shapes';
import { idParam, nothing } from './params';

const mergeable = z.object({ kind: s.mergeableKind });

export const mergeRoutes = {
  listDuplicates: {
    method: 'get',
    path: '/duplicates/{kind}',
    access: EDITORS,
    summary: 'Pairs of records that are likely one, the likeliest first, with the evidence',
    params: mergeable,
    query: z.object({ limit: z.coerce.number().int().min(1).max(200).default(40) }),
    response: s.duplicatesPage,
  },
  refuseDuplicate: {
    method: 'post',
    path: '/duplicates/{kind}/refuse',
    access: EDITORS,
    summary: 'Say that two records are not one; they are not proposed again',
    params: mergeable,
    body: z.strictObject({ one: z.number().int().positive(), other: z.number().int().positive() }),
    response: nothing,
  },
  mergeRecords: {
    method: 'post',
    path: '/merge/{kind}/{id}',
    access: EDITORS,
    summary: 'Merge another record into this one; all that refers to it refers to this one then. Undone exactly',
    params: mergeable.extend(idParam.shape),
    body: s.mergeRequest,
    response: s.merge,
  },
  listMerges: {
    method: 'get',
    path: '/merges',
    access: EDITORS,
    summary: 'Merges, the latest first',
    query: z.object({
      kind: s.mergeableKind.optional(),
      record: z.coerce.number().int().optional(),
      limit: z.coerce.number().int().min(1).max(200).default(30),
    }),
    response: z.object({ merges: z.array(s.merge) }),
  },
  undoMerge: {
    method: 'post',
    path: '/merges/{id}/undo',
    access: EDITORS,
    summary: 'Part two records again as they were',
    params: idParam,
    response: s.merge,
    errors: ['undone', 'later', 'taken'],
  },
  listStrangers: {
    method: 'get',
    path: '/strangers',
    access: EDITORS,
    summary: 'People and companies outside with whom we truly correspond and who are in no record, ranked by exchange both ways',
    query: z.object({
      days: z.coerce.number().int().min(1).max(3650).default(365),
      whose: z.enum(['mine', 'all']).default('all'),
      limit: z.coerce.number().int().min(1).max(300).default(100),
    }),
    response: z.object({ groups: z.array(s.strangerGroup), people: z.number().int() }),
  },
} as const satisfies Record<string, RouteShape>;
