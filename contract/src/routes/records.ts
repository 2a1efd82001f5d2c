import { z } from 'zod';
import type { RouteShape } from '../route';
import { EDITORS, EVERYBODY } from '../route';
import * as s from '../shapes';
import { kindAndId, kindParam } from './params';

export const recordsRoutes = {
  listRecords: {
    method: 'get',
    path: '/records/{kind}',
    access: EVERYBODY,
    summary: 'Contacts, leads, accounts or deals',
    params: kindParam,
    query: z.object({
      text: z.string().max(200).optional(),
      sort: z.enum(['name', 'lastEmail', 'emails', 'amount']).default('name'),
      descending: z.enum(['yes', 'no']).default('no'),
      origin: z.enum(['fulvet', 'people']).optional(),
      open: z.enum(['yes', 'no']).optional(),
      offset: z.coerce.number().int().min(0).default(0),
      limit: z.coerce.number().int().min(1).max(500).default(100),
    }),
    response: s.recordPage,
  },
  getRecord: {
    method: 'get',
    path: '/records/{kind}/{id}',
    access: EVERYBODY,
    summary: 'One record',
    params: kindAndId,
    response: s.recordDetail,
  },
  getHistory: {
    method: 'get',
    path: '/records/{kind}/{id}/history',
    access: EVERYBODY,
    summary: 'The conversations under a record, newest first',
    params: kindAndId,
    query: z.object({ after: z.string().optional(), limit: z.coerce.number().int().min(1).max(50).default(12) }),
    response: s.historyPage,
  },
  previewRecords: {
    method: 'post',
    path: '/records/{kind}/import/preview',
    access: EDITORS,
    summary: 'What an import of records would do; changes nothing',
    params: kindParam,
    body: s.recordsImportRequest,
    response: s.recordsPreview,
  },
  importRecords: {
    method: 'post',
    path: '/records/{kind}/import',
    access: EDITORS,
    summary: 'Import records from CSV or vCard',
    params: kindParam,
    body: s.recordsImportRequest,
    response: s.recordsPreview,
  },
  exportRecords: {
    method: 'get',
    path: '/records/{kind}/export',
    access: EDITORS,
    summary: 'Records as CSV, or contacts as vCard',
    params: kindParam,
    query: z.object({ format: z.enum(['csv', 'vcard']).default('csv') }),
    response: { mediaType: 'text/csv' },
  },
} as const satisfies Record<string, RouteShape>;
