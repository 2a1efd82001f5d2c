import { z } from 'zod';
import { idParam } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { email } from '../base/values';
import { importItem, importRun } from './shapes';

export const importRoutes = {
  listImports: {
    method: 'get',
    path: '/imports',
    access: EDITORS,
    summary: 'Imports of mail, newest first',
    response: z.object({ imports: z.array(importRun) }),
  },
  createImport: {
    method: 'post',
    path: '/imports',
    access: EDITORS,
    summary: 'Begin an import into a mailbox; then put its files and start it',
    body: z.strictObject({ mailbox: email }),
    response: importRun,
    errors: ['not-your-mailbox'],
  },
  putImportFile: {
    method: 'put',
    path: '/imports/{id}/files',
    access: EDITORS,
    summary: 'One file of an import: mbox, eml, .gz of one, or .zip of many',
    params: idParam,
    query: z.object({ name: z.string().min(1).max(500) }),
    body: 'bytes',
    response: z.object({ bytes: z.number().int() }),
    errors: ['too-large'],
  },
  startImport: {
    method: 'post',
    path: '/imports/{id}/start',
    access: EDITORS,
    summary: 'Start an import whose files are there',
    params: idParam,
    response: importRun,
  },
  getImport: {
    method: 'get',
    path: '/imports/{id}',
    access: EDITORS,
    summary: 'How far an import is',
    params: idParam,
    response: importRun,
  },
  listImportItems: {
    method: 'get',
    path: '/imports/{id}/items',
    access: EDITORS,
    summary: 'Result for each message of an import',
    params: idParam,
    query: z.object({
      result: z.string().optional(),
      problems: z.enum(['yes']).optional(),
      offset: z.coerce.number().int().min(0).default(0),
      limit: z.coerce.number().int().min(1).max(1000).default(200),
    }),
    response: z.object({ items: z.array(importItem), total: z.number().int() }),
  },
  cancelImport: {
    method: 'post',
    path: '/imports/{id}/cancel',
    access: EDITORS,
    summary: 'Cancel an import; what was read by then stands',
    params: idParam,
    response: importRun,
  },
} as const satisfies Record<string, RouteShape>;
