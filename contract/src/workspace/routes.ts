import { undoable } from '../base/undoShapes';
import type { RouteShape } from '../base/route';
import { ADMINS, EVERYBODY } from '../base/route';
import { auditCheck, auditPage, auditQuery, sample, workspace, workspaceChange } from './shapes';

export const workspaceRoutes = {
  getWorkspace: {
    method: 'get',
    path: '/workspace',
    access: EVERYBODY,
    summary: 'Settings of the whole workspace',
    response: workspace,
  },
  putWorkspace: {
    method: 'put',
    path: '/workspace',
    access: ADMINS,
    summary: 'Change what holds for the whole workspace',
    body: workspaceChange,
    response: workspace.extend(undoable.shape),
    errors: ['no-second-factor', 'no-link-address'],
  },
  getSample: {
    method: 'get',
    path: '/sample',
    access: ADMINS,
    summary: 'Whether the small sample world can be loaded, or is there',
    response: sample,
  },
  loadSample: {
    method: 'post',
    path: '/sample',
    access: ADMINS,
    summary: 'Load a small made-up world of records and mail into an empty workspace; undone as one step',
    response: sample.extend(undoable.shape),
    errors: ['not-empty'],
  },
  listAudit: {
    method: 'get',
    path: '/audit',
    access: EVERYBODY,
    summary: 'What was done with mail and settings: one’s own deeds and what concerns one; as an administrator all of the workspace',
    query: auditQuery,
    response: auditPage,
  },
  exportAudit: {
    method: 'get',
    path: '/export/audit',
    access: EVERYBODY,
    summary: 'The same as JSON Lines',
    query: auditQuery.omit({ after: true, limit: true }),
    response: { mediaType: 'application/jsonl' },
  },
  checkAudit: {
    method: 'get',
    path: '/audit/check',
    access: ADMINS,
    summary: 'Compute all hashes of the log anew and say whether it is as it was written',
    response: auditCheck,
  },
} as const satisfies Record<string, RouteShape>;
