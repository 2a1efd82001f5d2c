import { z } from 'zod';
import type { RouteShape } from '../route';
import { ADMINS } from '../route';
import * as s from '../shapes';
import { idParam, nothing } from './params';

const addresses = z.array(z.string().trim().toLowerCase().max(320)).max(2000);

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
      .describe('Take back the records that mail created, that nobody has touched since, and that the rulebook would not create.'),
  })
  .default({ days: null, mailboxes: [], withoutMade: false });

/** Going over past mail, and pilots: what is tried by some before everyone gets it. */
export const runRoutes = {
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
    response: s.decideRun,
  },
  getDecideRun: {
    method: 'get',
    path: '/decide/{id}',
    access: ADMINS,
    summary: 'How far a run is',
    params: idParam,
    response: s.decideRun,
  },
  listDecideRuns: {
    method: 'get',
    path: '/decide',
    access: ADMINS,
    summary: 'Runs over past mail, newest first',
    response: z.object({
      runs: z.array(s.decideRun.extend({ at: z.iso.datetime({ offset: true }), by: z.string().nullable(), undoable: z.boolean() })),
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
        .array(z.object({ kind: s.recordKind, id: z.number().int(), name: z.string() }))
        .describe('Those that stay away, since another record has their address by now.'),
      kept: z.array(z.object({ kind: s.recordKind, id: z.number().int(), name: z.string(), because: z.string() })),
    }),
    errors: ['undone-already'],
  },
  cancelDecideRun: {
    method: 'post',
    path: '/decide/{id}/cancel',
    access: ADMINS,
    summary: 'Cancel a run; nothing is changed',
    params: idParam,
    response: s.decideRun,
  },

  getPilot: {
    method: 'get',
    path: '/rulebook/pilot',
    access: ADMINS,
    summary: 'The pilot that runs, with its figures beside those of other mail',
    response: z.object({ pilot: s.pilot.nullable() }),
  },
  startPilot: {
    method: 'post',
    path: '/rulebook/pilot',
    access: ADMINS,
    summary: 'Put the draft in force for the mail of some mailboxes only',
    body: z.strictObject({
      revision: z.number().int(),
      mailboxes: addresses.min(1, { message: 'is empty: choose at least one mailbox' }),
      note: z.string().trim().max(500).default(''),
    }),
    response: z.object({ version: z.number().int() }),
    errors: ['changed-meanwhile', 'nothing-changed', 'pilot-runs', 'no-such-mailbox'],
  },
  putPilotLive: {
    method: 'post',
    path: '/rulebook/pilot/live',
    access: ADMINS,
    summary: 'Put the pilot’s rules in force for everyone; past mail stays as decided until decided again',
    body: z.strictObject({ note: z.string().trim().max(500).default('') }).default({ note: '' }),
    response: s.rulebookState,
    errors: ['changed-meanwhile', 'no-pilot'],
  },
  endPilot: {
    method: 'delete',
    path: '/rulebook/pilot',
    access: ADMINS,
    summary: 'End the pilot: new mail of its mailboxes is decided as everyone’s again',
    response: nothing,
    errors: ['no-pilot'],
  },
} as const satisfies Record<string, RouteShape>;
