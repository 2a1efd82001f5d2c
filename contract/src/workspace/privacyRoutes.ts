import { z } from 'zod';
import type { RouteShape } from '../base/route';
import { ADMINS } from '../base/route';
import { eraseRequest, erasure, personHeld, personQuestion, retentionChange, retentionKind, retentionRule } from './privacyShapes';

export const privacyRoutes = {
  findPerson: {
    method: 'post',
    path: '/privacy/find',
    access: ADMINS,
    summary: 'What is held about an external person, before it is exported or erased',
    body: personQuestion,
    response: personHeld,
  },
  exportPerson: {
    method: 'post',
    path: '/privacy/export',
    access: ADMINS,
    summary: 'All that is held about an external person, as JSON; what emails say where the reader may read them',
    body: personQuestion,
    response: { mediaType: 'application/json' },
  },
  erasePerson: {
    method: 'post',
    path: '/privacy/erase',
    access: ADMINS,
    summary: 'Forget an external person for good: records, emails, sources; they are kept out from then on',
    body: eraseRequest,
    response: erasure,
    errors: ['not-confirmed', 'ours'],
  },
  listErasures: {
    method: 'get',
    path: '/privacy/erasures',
    access: ADMINS,
    summary: 'What was erased, with the certificates',
    response: z.object({ erasures: z.array(erasure) }),
  },
  getRetention: {
    method: 'get',
    path: '/retention',
    access: ADMINS,
    summary: 'How long kinds of mail are kept, and what would go now',
    response: z.object({ rules: z.array(retentionRule) }),
  },
  previewRetention: {
    method: 'get',
    path: '/retention/preview',
    access: ADMINS,
    summary: 'What would go if a kind were kept for so many days',
    query: z.object({ kind: retentionKind, days: z.coerce.number().int().min(1).max(36_500) }),
    response: z.object({ wouldGo: z.number().int(), oldest: z.iso.datetime({ offset: true }).nullable() }),
  },
  putRetention: {
    method: 'put',
    path: '/retention',
    access: ADMINS,
    summary: 'Say how long a kind of mail is kept; what is older goes with the next daily run',
    body: retentionChange,
    response: retentionRule,
  },
  runRetention: {
    method: 'post',
    path: '/retention/run',
    access: ADMINS,
    summary: 'Let go now what is kept no longer',
    response: z.object({ gone: z.number().int() }),
  },
} as const satisfies Record<string, RouteShape>;
