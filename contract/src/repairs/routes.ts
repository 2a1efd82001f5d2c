import { z } from 'zod';
import { emailIds, idParam } from '../base/params';
import { recordKind } from '../base/values';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { desk, eachProposal, likelyRecord, repair, repairRequest, repairResult, repairUndone } from './shapes';

export const repairRoutes = {
  repair: {
    method: 'post',
    path: '/repairs',
    access: EDITORS,
    summary:
      'Put emails right by hand: file, take off, settle, seal, create records from them. Rules never overturn it; undone as one step',
    body: repairRequest,
    response: repairResult,
    errors: ['not-yours', 'taken'],
  },
  undoRepair: {
    method: 'post',
    path: '/repairs/{id}/undo',
    access: EDITORS,
    summary: 'Take back what was put right by hand; one’s own, or any as an administrator',
    params: idParam,
    response: repairUndone,
    errors: ['undone'],
  },
  listRepairs: {
    method: 'get',
    path: '/repairs',
    access: EDITORS,
    summary: 'What was put right by hand, the latest first: one’s own, and as an administrator everyone’s; or that of one email',
    query: z.object({ email: z.coerce.number().int().positive().optional(), limit: z.coerce.number().int().min(1).max(200).default(50) }),
    response: z.object({ repairs: z.array(repair) }),
  },
  likelyRecords: {
    method: 'get',
    path: '/emails/{id}/likely',
    access: EDITORS,
    summary: 'Records under which an email may belong, the likeliest first, with why; or by name',
    params: idParam,
    query: z.object({ text: z.string().max(200).default('') }),
    response: z.object({ records: z.array(likelyRecord) }),
  },
  proposeEach: {
    method: 'get',
    path: '/outsiders/each',
    access: EDITORS,
    summary: 'What records might begin with these emails, one for each external person or company, duplicates first',
    query: z.object({
      emails: emailIds,
      per: z.enum(['person', 'company']),
      kind: recordKind,
      of: z.string().max(60).optional().describe('Of records of own kinds: the key of the kind.'),
    }),
    response: z.object({
      entries: z.array(eachProposal),
      left: z.number().int().describe('People beyond those that are shown, counted up to 200.'),
    }),
  },
  getDesk: {
    method: 'get',
    path: '/desk',
    access: EDITORS,
    summary:
      'What waits for a person to decide, the answer that settles most first: of one’s own mailboxes, and as an administrator of all',
    query: z.object({ whose: z.enum(['mine', 'all']).default('mine'), limit: z.coerce.number().int().min(1).max(500).default(200) }),
    response: desk,
  },
  passCase: {
    method: 'post',
    path: '/desk/pass',
    access: EDITORS,
    summary: 'Pass waiting emails to a colleague who may read them',
    body: z.strictObject({ emails: z.array(z.number().int().positive()).min(1).max(500), to: z.number().int().positive() }),
    response: z.object({ passed: z.number().int() }),
    errors: ['not-theirs'],
  },
} as const satisfies Record<string, RouteShape>;
