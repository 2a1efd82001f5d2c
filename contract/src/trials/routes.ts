import { z } from 'zod';
import { idParam, nothing } from '../base/params';
import type { RouteShape } from '../base/route';
import { ADMINS } from '../base/route';
import { docketEntry } from '../emails/shapes';
import { ruleChanges, ruleCount, trial, trialMadeRow, trialQuery, trialRow } from './shapes';

const step = z.enum(['keepOut', 'takeIn', 'match', 'create', 'share']);

export const trialRoutes = {
  countRule: {
    method: 'post',
    path: '/rules/count',
    access: ADMINS,
    summary: 'On how many past emails a rule would speak, with examples; changes nothing',
    body: z.strictObject({
      step,
      rule: z.unknown(),
      days: z.number().int().min(1).max(3650).nullable().default(null),
      partly: z.boolean().default(false).describe('Answer soon, from the newest emails alone where the others are still being read.'),
    }),
    maxBody: 8 * 1024 * 1024,
    response: ruleCount,
    errors: ['bad-rulebook'],
  },
  tryRule: {
    method: 'post',
    path: '/rules/try',
    access: ADMINS,
    summary: 'What a rule would change of the newest past emails that it is about, beside the draft as it is; changes nothing',
    body: z.strictObject({ step, rule: z.unknown() }),
    maxBody: 8 * 1024 * 1024,
    response: ruleChanges,
    errors: ['bad-rulebook'],
  },
  listTrials: {
    method: 'get',
    path: '/trials',
    access: ADMINS,
    summary: 'Trials, newest first',
    response: z.object({ trials: z.array(trial) }),
  },
  startTrial: {
    method: 'post',
    path: '/trials',
    access: ADMINS,
    summary: 'Try the draft out on past mail; changes nothing',
    body: z.strictObject({
      name: z.string().trim().max(100).default(''),
      days: z.number().int().min(1).max(36_500).nullable().default(null).describe('Null for all mail.'),
      mailboxes: z.array(z.string().max(320)).max(2000).default([]).describe('Empty for all.'),
      withoutMade: z
        .boolean()
        .default(false)
        .describe(
          'Decide as if the records that mail created, and that no one has touched since, were not there: what the draft alone would create.',
        ),
    }),
    response: trial,
  },
  getTrial: { method: 'get', path: '/trials/{id}', access: ADMINS, summary: 'One trial', params: idParam, response: trial },
  cancelTrial: {
    method: 'post',
    path: '/trials/{id}/cancel',
    access: ADMINS,
    summary: 'Cancel a trial',
    params: idParam,
    response: trial,
  },
  deleteTrial: { method: 'delete', path: '/trials/{id}', access: ADMINS, summary: 'Remove a trial', params: idParam, response: nothing },
  listTrialRows: {
    method: 'get',
    path: '/trials/{id}/emails',
    access: ADMINS,
    summary: 'The emails behind a trial’s numbers',
    params: idParam,
    query: trialQuery,
    response: z.object({ rows: z.array(trialRow), total: z.number().int() }),
  },
  listTrialMade: {
    method: 'get',
    path: '/trials/{id}/not-created',
    access: ADMINS,
    summary: 'Records that mail created and that the draft of a trial would not create',
    params: idParam,
    query: z.object({ offset: z.coerce.number().int().min(0).default(0), limit: z.coerce.number().int().min(1).max(500).default(100) }),
    response: z.object({ records: z.array(trialMadeRow), total: z.number().int() }),
  },
  getTrialDocket: {
    method: 'get',
    path: '/trials/{id}/emails/{email}',
    access: ADMINS,
    summary: 'Both dockets of an email in a trial, for those who may read the email',
    params: idParam.extend({ email: z.coerce.number().int().positive() }),
    response: z.object({ before: z.array(docketEntry), after: z.array(docketEntry), step: z.string().nullable() }),
  },
  exportTrial: {
    method: 'get',
    path: '/trials/{id}/export',
    access: ADMINS,
    summary: 'A trial’s differences as CSV or JSON Lines',
    params: idParam,
    query: z.object({ format: z.enum(['csv', 'jsonl']).default('csv') }),
    response: { mediaType: 'text/csv' },
  },
} as const satisfies Record<string, RouteShape>;
