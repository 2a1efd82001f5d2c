import { z } from 'zod';
import type { RouteShape } from '../route';
import { EDITORS } from '../route';
import * as s from '../shapes';
import { idParam, nothing } from './params';

export const repairRoutes = {
  repair: {
    method: 'post',
    path: '/repairs',
    access: EDITORS,
    summary: 'Put emails right by hand: file, take off, settle, seal, start records from them. Rules never overturn it; undone as one step',
    body: s.repairRequest,
    response: s.repairResult,
    errors: ['not-yours', 'taken'],
  },
  undoRepair: {
    method: 'post',
    path: '/repairs/{id}/undo',
    access: EDITORS,
    summary: 'Take back what was put right by hand; one’s own, or any as an administrator',
    params: idParam,
    response: s.repairUndone,
    errors: ['undone'],
  },
  listRepairs: {
    method: 'get',
    path: '/repairs',
    access: EDITORS,
    summary: 'What was put right by hand, the latest first: one’s own, and as an administrator everybody’s; or that of one email',
    query: z.object({ email: z.coerce.number().int().positive().optional(), limit: z.coerce.number().int().min(1).max(200).default(50) }),
    response: z.object({ repairs: z.array(s.repair) }),
  },
  likelyRecords: {
    method: 'get',
    path: '/emails/{id}/likely',
    access: EDITORS,
    summary: 'Records under which an email may belong, the likeliest first, with why; or by name',
    params: idParam,
    query: z.object({ text: z.string().max(200).default('') }),
    response: z.object({ records: z.array(s.likelyRecord) }),
  },
  outsiders: {
    method: 'get',
    path: '/outsiders',
    access: EDITORS,
    summary: 'The people outside who take part in these emails, with what a record of them would say',
    query: z.object({ emails: z.string().regex(/^\d+(?:,\d+){0,499}$/, { message: 'must be ids separated by commas' }) }),
    response: z.object({ people: z.array(s.outsider) }),
  },
  concernedPeople: {
    method: 'get',
    path: '/emails/{id}/concerned',
    access: EDITORS,
    summary: 'Whom an email concerns in the records: title, account, open deals, next meeting, last contact with any colleague',
    params: idParam,
    response: z.object({ people: z.array(s.concernedPerson) }),
  },
  findByMessageId: {
    method: 'get',
    path: '/my-mail/message',
    access: EDITORS,
    summary: 'The email of a Message-ID, of what the reader may read; how a mail program leads here',
    query: z.object({ id: z.string().min(1).max(1000) }),
    response: z.object({ id: z.number().int() }),
  },
  listOwnKeepOuts: {
    method: 'get',
    path: '/my-mail/keep-outs',
    access: EDITORS,
    summary: 'Whom one keeps out of one’s own mailboxes',
    response: z.object({ keepOuts: z.array(s.ownKeepOut) }),
  },
  addOwnKeepOut: {
    method: 'post',
    path: '/my-mail/keep-outs',
    access: EDITORS,
    summary: 'Keep somebody out of one’s own mailboxes; mail that colleagues have, too, comes in for them',
    body: z.strictObject({ kind: z.enum(['address', 'domain']), value: z.string().trim().min(3).max(320) }),
    response: s.ownKeepOut,
    errors: ['ours'],
  },
  removeOwnKeepOut: {
    method: 'delete',
    path: '/my-mail/keep-outs/{id}',
    access: EDITORS,
    summary: 'Let somebody in again; their mail is read from its source',
    params: idParam,
    response: nothing,
  },
  getDesk: {
    method: 'get',
    path: '/desk',
    access: EDITORS,
    summary:
      'What waits for a person to decide, the answer that settles most first: of one’s own mailboxes, and as an administrator of all',
    query: z.object({ whose: z.enum(['mine', 'all']).default('mine'), limit: z.coerce.number().int().min(1).max(500).default(200) }),
    response: s.desk,
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
