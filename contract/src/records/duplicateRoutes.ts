import { z } from 'zod';
import { idParam, nothing } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { duplicatesPage, merge, mergeRequest, mergeableKind } from './duplicateShapes';

const mergeable = z.object({ kind: mergeableKind });

export const duplicateRoutes = {
  listDuplicates: {
    method: 'get',
    path: '/duplicates/{kind}',
    access: EDITORS,
    summary: 'Pairs of records that are likely one, the likeliest first, with the evidence',
    params: mergeable,
    query: z.object({ limit: z.coerce.number().int().min(1).max(200).default(40) }),
    response: duplicatesPage,
    heavy: true,
    errors: ['too-much'],
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
    body: mergeRequest,
    response: merge,
  },
  listMerges: {
    method: 'get',
    path: '/merges',
    access: EDITORS,
    summary: 'Merges, the latest first',
    query: z.object({
      kind: mergeableKind.optional(),
      record: z.coerce.number().int().optional(),
      limit: z.coerce.number().int().min(1).max(200).default(30),
    }),
    response: z.object({ merges: z.array(merge) }),
  },
  undoMerge: {
    method: 'post',
    path: '/merges/{id}/undo',
    access: EDITORS,
    summary: 'Part two records again as they were',
    params: idParam,
    response: merge,
    errors: ['undone', 'later', 'taken'],
  },
} as const satisfies Record<string, RouteShape>;
