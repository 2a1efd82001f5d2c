import { z } from 'zod';
import type { RouteShape } from '../route';
import { ADMINS, EVERYBODY } from '../route';
import * as s from '../shapes';
import { idParam } from './params';

const versionParam = z.object({ version: z.coerce.number().int().positive() });

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
    response: z.object({ versions: z.array(s.rulebookVersion) }),
  },
  getRulebookVersion: {
    method: 'get',
    path: '/rulebook/versions/{version}',
    access: ADMINS,
    summary: 'One version with its document, and what it does otherwise than another, in sentences',
    params: versionParam,
    query: z.object({
      against: z.coerce.number().int().positive().optional().describe('The version that stood before it, when left out.'),
    }),
    response: s.rulebookVersion.extend({ document: z.unknown(), against: z.number().int().nullable(), differences: z.array(z.string()) }),
  },
  versionToDraft: {
    method: 'post',
    path: '/rulebook/versions/{version}/draft',
    access: ADMINS,
    summary: 'Take a version into the draft, to try it out and put it live again; replaces the draft',
    params: versionParam,
    response: s.draftState,
    errors: ['bad-rulebook'],
  },
} as const satisfies Record<string, RouteShape>;
