import { z } from 'zod';
import type { RouteShape } from '../base/route';
import { ADMINS, EVERYBODY } from '../base/route';
import { undoable } from '../base/undoShapes';
import { draftState } from '../rulebook/shapes';
import { accuracyQuery, arrival, domainRow, lineCounts, mailFlow, ruleAccuracy, suggestion, tuningQuery, unusualRule } from './shapes';

export const reportRoutes = {
  getLine: {
    method: 'get',
    path: '/line',
    access: EVERYBODY,
    summary: 'Volumes of the last 30 days at each step, and how many questions wait',
    response: lineCounts,
  },
  getArrival: { method: 'get', path: '/arrival', access: EVERYBODY, summary: 'What wants the reader on arriving', response: arrival },
  getMailFlow: {
    method: 'get',
    path: '/flow',
    access: EVERYBODY,
    summary: 'Emails of the last weeks by outcome; without sealed ones',
    query: z.object({ weeks: z.coerce.number().int().min(1).max(52).default(12) }),
    response: mailFlow,
  },
  listUnusualRules: {
    method: 'get',
    path: '/flow/rules',
    access: ADMINS,
    summary: 'Rules that took far more or far less in the last seven days than in the eight weeks before',
    response: z.object({ rules: z.array(unusualRule) }),
  },
  listDomainUse: {
    method: 'get',
    path: '/tuning/domains',
    access: ADMINS,
    summary: 'External domains by volume, with what became of their mail and by which rule',
    query: tuningQuery,
    response: z.object({ rows: z.array(domainRow), total: z.number().int() }),
  },
  listSuggestions: {
    method: 'get',
    path: '/tuning/suggestions',
    access: ADMINS,
    summary: 'Rules that past mail suggests, each with the effect that a small trial found; changes nothing',
    response: z.object({ suggestions: z.array(suggestion) }),
    heavy: true,
    errors: ['too-much'],
  },
  listRuleAccuracy: {
    method: 'get',
    path: '/tuning/accuracy',
    access: ADMINS,
    summary: 'How often each rule that files was right, by what people corrected by hand',
    query: accuracyQuery,
    response: z.object({ rules: z.array(ruleAccuracy) }),
  },
  takeSuggestion: {
    method: 'post',
    path: '/tuning/suggestions',
    access: ADMINS,
    summary: 'Put a suggested rule, or the address of a form, into the draft; or add a suggested domain to its account',
    body: z.strictObject({ code: suggestion.shape.code, about: z.string().max(320) }),
    response: draftState.extend(undoable.shape),
    errors: ['gone', 'changed-meanwhile'],
  },
} as const satisfies Record<string, RouteShape>;
