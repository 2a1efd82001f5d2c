import { z } from 'zod';
import type { RouteShape } from '../route';
import { ADMINS } from '../route';
import * as s from '../shapes';

/** Looking at what stays unmatched and what is junk, and what would mend it. */
export const tuningRoutes = {
  listDomainUse: {
    method: 'get',
    path: '/tuning/domains',
    access: ADMINS,
    summary: 'Domains outside by volume, with what became of their mail and by which rule',
    query: s.tuningQuery,
    response: z.object({ rows: z.array(s.domainRow), total: z.number().int() }),
  },
  listSuggestions: {
    method: 'get',
    path: '/tuning/suggestions',
    access: ADMINS,
    summary: 'Rules that past mail suggests, each with the effect that a small trial found; changes nothing',
    response: z.object({ suggestions: z.array(s.suggestion) }),
  },
  takeSuggestion: {
    method: 'post',
    path: '/tuning/suggestions',
    access: ADMINS,
    summary: 'Put a suggested rule into the draft',
    body: z.strictObject({ code: s.suggestion.shape.code, about: z.string().max(320) }),
    response: s.draftState,
    errors: ['gone', 'changed-meanwhile'],
  },
} as const satisfies Record<string, RouteShape>;
