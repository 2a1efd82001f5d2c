import { undoable } from '../base/undoShapes';
import { z } from 'zod';
import { addresses, idParam, nothing } from '../base/params';
import type { RouteShape } from '../base/route';
import { ADMINS, EDITORS, EVERYBODY } from '../base/route';
import { id, recordKind } from '../base/values';
import { decideRun, explanation, allowAgainPreview, keepOutPreview, keepOutRequest, ownKeepOut, whyNot } from './shapes';

/** Which past mail. */
const span = z.strictObject({
  days: z.number().int().min(1).max(36_500).nullable().default(null).describe('Mail of so many days; null: all.'),
  mailboxes: addresses.default([]).describe('Mail in these mailboxes; empty: all.'),
});

const pastSpan = span.default({ days: null, mailboxes: [] });

const pastRun = span
  .extend({
    withoutMade: z
      .boolean()
      .default(false)
      .describe('Take back the records that mail created, that no one has touched since, and that the rulebook would not create.'),
  })
  .default({ days: null, mailboxes: [], withoutMade: false });

export const decisionRoutes = {
  explainEmail: {
    method: 'get',
    path: '/emails/{id}/explanation',
    access: EVERYBODY,
    summary: 'Rules that almost applied to an email, and what would have to change for another outcome; for those who may read it',
    params: idParam,
    response: explanation,
    errors: ['not-yours'],
  },
  whyNot: {
    method: 'get',
    path: '/emails/{id}/why-not',
    access: EVERYBODY,
    summary: 'Why an email does not stand under a record, and what would put it there',
    params: idParam,
    query: z.object({ kind: recordKind, record: z.coerce.number().int().positive() }),
    response: whyNot,
    errors: ['not-yours'],
  },
  listOwnKeepOuts: {
    method: 'get',
    path: '/my-mail/keep-outs',
    access: EDITORS,
    summary: 'Whom one keeps out of one’s own mailboxes',
    response: z.object({ keepOuts: z.array(ownKeepOut) }),
  },
  addOwnKeepOut: {
    method: 'post',
    path: '/my-mail/keep-outs',
    access: EDITORS,
    summary: 'Keep someone out of one’s own mailboxes; mail that colleagues have, too, comes in for them',
    body: z.strictObject({ kind: z.enum(['address', 'domain']), value: z.string().trim().min(3).max(320) }),
    response: ownKeepOut.extend(undoable.shape),
    errors: ['ours'],
  },
  removeOwnKeepOut: {
    method: 'delete',
    path: '/my-mail/keep-outs/{id}',
    access: EDITORS,
    summary: 'Let someone in again; their mail is read from its source',
    params: idParam,
    response: nothing,
  },
  previewKeepOut: {
    method: 'post',
    path: '/keep-out/preview',
    access: ADMINS,
    summary: 'How many emails keeping out a domain or an address would concern; changes nothing',
    body: keepOutRequest,
    response: keepOutPreview,
  },
  keepOut: {
    method: 'post',
    path: '/keep-out',
    access: ADMINS,
    summary: 'Keep out a domain or an address, past mail included',
    body: keepOutRequest,
    response: z.object({ undo: id, changed: z.number().int(), version: z.number().int() }),
    errors: ['exists'],
  },
  previewAllowAgain: {
    method: 'get',
    path: '/keep-out/{entry}/preview',
    access: ADMINS,
    summary: 'How many emails would come back if an entry no longer kept them out; changes nothing',
    params: z.object({ entry: z.string() }),
    response: allowAgainPreview,
  },
  removeKeepOut: {
    method: 'delete',
    path: '/keep-out/{entry}',
    access: ADMINS,
    summary: 'Allow an entry of the kept-out list again; its emails are decided again',
    params: z.object({ entry: z.string() }),
    response: z.object({ changed: z.number().int(), version: z.number().int() }),
  },
  countPast: {
    method: 'post',
    path: '/decide/count',
    access: ADMINS,
    summary: 'How many emails a run over past mail would decide again; changes nothing',
    body: pastSpan,
    response: z.object({ emails: z.number().int() }),
  },
  decide: {
    method: 'post',
    path: '/decide',
    access: ADMINS,
    summary: 'Decide past mail again by what is in force, as one step; without a body, all of it',
    body: pastRun,
    response: decideRun,
  },
  getDecideRun: {
    method: 'get',
    path: '/decide/{id}',
    access: ADMINS,
    summary: 'How far a run is',
    params: idParam,
    response: decideRun,
  },
  listDecideRuns: {
    method: 'get',
    path: '/decide',
    access: ADMINS,
    summary: 'Past mail decided again, newest first',
    response: z.object({
      runs: z.array(decideRun.extend({ at: z.iso.datetime({ offset: true }), by: z.string().nullable(), undoable: z.boolean() })),
    }),
  },
  undoDecideRun: {
    method: 'post',
    path: '/decide/{id}/undo',
    access: ADMINS,
    summary: 'Undo a run over past mail as one step; what stood before stands again',
    params: idParam,
    body: z.strictObject({ rulebook: z.boolean().default(false).describe('Put the rulebook before in force again, too.') }),
    response: z.object({
      restored: z.number().int(),
      again: z.number().int(),
      removed: z.number().int(),
      back: z.number().int().describe('Records that the run had taken back, and that are there again.'),
      away: z
        .array(z.object({ kind: recordKind, id: z.number().int(), name: z.string() }))
        .describe('Those that stay away, since another record has their address by now.'),
      kept: z.array(z.object({ kind: recordKind, id: z.number().int(), name: z.string(), because: z.string() })),
    }),
    errors: ['undone-already'],
  },
  cancelDecideRun: {
    method: 'post',
    path: '/decide/{id}/cancel',
    access: ADMINS,
    summary: 'Cancel a run; nothing is changed',
    params: idParam,
    response: decideRun,
  },
} as const satisfies Record<string, RouteShape>;
