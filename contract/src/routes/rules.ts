import { z } from 'zod';
import type { RouteShape } from '../route';
import { ADMINS, EVERYBODY } from '../route';
import * as s from '../shapes';
import { idParam } from './params';

export const rulesRoutes = {
  previewKeepOut: {
    method: 'post',
    path: '/keep-out/preview',
    access: ADMINS,
    summary: 'How many emails keeping out a domain or an address would concern; changes nothing',
    body: s.keepOutRequest,
    response: s.keepOutPreview,
  },
  keepOut: {
    method: 'post',
    path: '/keep-out',
    access: ADMINS,
    summary: 'Keep out a domain or an address, past mail included',
    body: s.keepOutRequest,
    response: z.object({ undo: s.undoStep, changed: z.number().int(), version: z.number().int() }),
    errors: ['exists'],
  },
  removeKeepOut: {
    method: 'delete',
    path: '/keep-out/{entry}',
    access: ADMINS,
    summary: 'Take an entry off the kept-out list; its emails are decided again',
    params: z.object({ entry: z.string() }),
    response: z.object({ changed: z.number().int(), version: z.number().int() }),
  },
  listUndo: {
    method: 'get',
    path: '/undo',
    access: ADMINS,
    summary: 'Steps that can be undone, newest first',
    response: z.object({ steps: z.array(s.undoStep) }),
  },
  undo: {
    method: 'post',
    path: '/undo/{id}',
    access: ADMINS,
    summary: 'Undo a step',
    params: idParam,
    response: z.object({ changed: z.number().int(), version: z.number().int() }),
    errors: ['undone-already'],
  },

  getRulebook: { method: 'get', path: '/rulebook', access: EVERYBODY, summary: 'The rulebook in force', response: s.rulebookState },
  rulebookSchema: {
    method: 'get',
    path: '/rulebook/schema.json',
    access: 'public',
    summary: 'JSON Schema of the rulebook file',
    response: z.unknown(),
  },
  putRulebook: {
    method: 'put',
    path: '/rulebook',
    access: ADMINS,
    summary: 'Put a rulebook in force; past mail stays as decided until decided again',
    body: z.unknown(),
    query: z.object({
      over: z.coerce.number().int().optional().describe('The version that was edited; refused when another one is in force.'),
    }),
    response: s.rulebookState,
    errors: ['bad-rulebook', 'changed-meanwhile'],
  },
  listRulebooks: {
    method: 'get',
    path: '/rulebook/versions',
    access: ADMINS,
    summary: 'Earlier versions',
    response: z.object({ versions: z.array(s.rulebookState.omit({ document: true })) }),
  },
  decide: {
    method: 'post',
    path: '/decide',
    access: ADMINS,
    summary: 'Decide all mail again by the rulebook in force',
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
      kept: z.array(z.object({ kind: s.recordKind, id: z.number().int(), name: z.string(), because: z.string() })),
    }),
    errors: ['undone-already'],
  },
  cancelDecideRun: {
    method: 'post',
    path: '/decide/{id}/cancel',
    access: ADMINS,
    summary: 'Cancel a run; what is decided by then stands',
    params: idParam,
    response: s.decideRun,
  },
} as const satisfies Record<string, RouteShape>;
