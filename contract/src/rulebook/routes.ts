import { undoable } from '../base/undoShapes';
import { z } from 'zod';
import { addresses, nothing } from '../base/params';
import type { RouteShape } from '../base/route';
import { ADMINS, EVERYBODY } from '../base/route';
import { draftState, pilot, rulebookState, rulebookVersion } from './shapes';

const versionParam = z.object({ version: z.coerce.number().int().positive() });

export const rulebookRoutes = {
  getRulebook: { method: 'get', path: '/rulebook', access: EVERYBODY, summary: 'The rulebook in force', response: rulebookState },
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
    maxBody: 8 * 1024 * 1024,
    response: rulebookState,
    errors: ['bad-rulebook', 'changed-meanwhile'],
  },
  listRulebooks: {
    method: 'get',
    path: '/rulebook/versions',
    access: ADMINS,
    summary: 'Earlier versions',
    response: z.object({ versions: z.array(rulebookVersion) }),
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
    response: rulebookVersion.extend({ document: z.unknown(), against: z.number().int().nullable(), differences: z.array(z.string()) }),
  },
  versionToDraft: {
    method: 'post',
    path: '/rulebook/versions/{version}/draft',
    access: ADMINS,
    summary: 'Take a version into the draft, to try it out and put it live again; replaces the draft',
    params: versionParam,
    response: draftState.extend(undoable.shape),
    errors: ['bad-rulebook'],
  },
  getPilot: {
    method: 'get',
    path: '/rulebook/pilot',
    access: ADMINS,
    summary: 'The pilot that runs, with its figures beside those of other mail',
    response: z.object({ pilot: pilot.nullable() }),
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
    response: rulebookState,
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
