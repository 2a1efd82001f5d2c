import { z } from 'zod';
import type { RouteShape } from '../route';
import { ADMINS } from '../route';
import * as s from '../shapes';
import { idParam, nothing } from './params';

const listParam = z.object({ list: z.string().max(64) });
const stop = z.enum(['keepOut', 'takeIn', 'match', 'create', 'share']);

/** Editing rules: the draft, kept lists, what a rule takes, trials. */
export const draftRoutes = {
  getDraft: {
    method: 'get',
    path: '/rulebook/draft',
    access: ADMINS,
    summary: 'The rulebook that is being edited',
    response: s.draftState,
  },
  putDraft: {
    method: 'put',
    path: '/rulebook/draft',
    access: ADMINS,
    summary: 'Keep an edited rulebook as the draft; nothing takes effect',
    query: z.object({ revision: z.coerce.number().int().min(0).describe('The revision that was edited; refused when another is kept.') }),
    body: z.unknown(),
    response: s.draftState,
    errors: ['bad-rulebook', 'changed-meanwhile'],
  },
  dropDraft: { method: 'delete', path: '/rulebook/draft', access: ADMINS, summary: 'Throw the draft away', response: s.draftState },
  putDraftLive: {
    method: 'post',
    path: '/rulebook/draft/live',
    access: ADMINS,
    summary: 'Put the draft in force for new mail; past mail stays as decided until decided again',
    body: z.strictObject({ revision: z.number().int(), note: z.string().trim().max(500).default('') }),
    response: s.rulebookState,
    errors: ['changed-meanwhile', 'nothing-changed'],
  },
  checkDraft: {
    method: 'get',
    path: '/rulebook/draft/check',
    access: ADMINS,
    summary: 'What is odd about the draft: rules that never speak, lists that are gone, patterns that match all or nothing',
    response: z.object({ findings: z.array(s.finding) }),
  },
  countRule: {
    method: 'post',
    path: '/rules/count',
    access: ADMINS,
    summary: 'On how many past emails a rule would speak, with examples; changes nothing',
    body: z.strictObject({
      stop,
      rule: z.unknown(),
      days: z.number().int().min(1).max(3650).nullable().default(null),
      partly: z.boolean().default(false).describe('Answer soon, from the newest emails alone where the others are still being read.'),
    }),
    response: s.ruleCount,
    errors: ['bad-rulebook'],
  },
  useOfRules: {
    method: 'get',
    path: '/rules/use',
    access: ADMINS,
    summary: 'What each rule and list entry took in the last 30 days',
    response: z.object({ rules: z.array(s.ruleUse) }),
  },

  listKeptLists: {
    method: 'get',
    path: '/kept-lists',
    access: ADMINS,
    summary: 'Kept lists',
    response: z.object({ lists: z.array(s.keptList) }),
  },
  createKeptList: {
    method: 'post',
    path: '/kept-lists',
    access: ADMINS,
    summary: 'Make a kept list',
    body: z.strictObject({
      name: z.string().trim().min(1, { message: 'is missing' }).max(100),
      note: z.string().trim().max(500).default(''),
    }),
    response: s.keptList,
    errors: ['exists'],
  },
  deleteKeptList: {
    method: 'delete',
    path: '/kept-lists/{list}',
    access: ADMINS,
    summary: 'Remove a kept list that no rule refers to',
    params: listParam,
    response: nothing,
    errors: ['in-use'],
  },
  listKeptEntries: {
    method: 'get',
    path: '/kept-lists/{list}/entries',
    access: ADMINS,
    summary: 'Entries of a kept list',
    params: listParam,
    query: z.object({ text: z.string().max(200).optional(), offset: z.coerce.number().int().min(0).default(0) }),
    response: z.object({ entries: z.array(s.keptEntry), total: z.number().int() }),
  },
  pasteKeptEntries: {
    method: 'post',
    path: '/kept-lists/{list}/entries',
    access: ADMINS,
    summary: 'Add entries, pasted in any form: addresses, domains, URLs, “Name <address>”, separated by commas or lines; or CSV',
    params: listParam,
    body: z.strictObject({
      text: z.string().max(5_000_000),
      note: z.string().trim().max(500).default(''),
      until: z.iso.date().nullable().default(null),
    }),
    response: s.pasted,
  },
  changeKeptEntry: {
    method: 'put',
    path: '/kept-lists/{list}/entries/{id}',
    access: ADMINS,
    summary: 'Change an entry’s note, end or reach',
    params: listParam.extend(idParam.shape),
    body: z.strictObject({
      note: z.string().trim().max(500).optional(),
      until: z.iso.date().nullable().optional(),
      exactly: z.boolean().optional(),
    }),
    response: nothing,
  },
  removeKeptEntry: {
    method: 'delete',
    path: '/kept-lists/{list}/entries/{id}',
    access: ADMINS,
    summary: 'Remove an entry',
    params: listParam.extend(idParam.shape),
    response: nothing,
  },
  exportKeptList: {
    method: 'get',
    path: '/kept-lists/{list}/export',
    access: ADMINS,
    summary: 'A kept list as CSV: kind, value, exactly, note, until',
    params: listParam,
    response: { mediaType: 'text/csv' },
  },

  listTrials: {
    method: 'get',
    path: '/trials',
    access: ADMINS,
    summary: 'Trials, newest first',
    response: z.object({ trials: z.array(s.trial) }),
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
          'Decide as if the records that mail created, and that nobody has touched since, were not there: what the draft alone would create.',
        ),
    }),
    response: s.trial,
  },
  getTrial: { method: 'get', path: '/trials/{id}', access: ADMINS, summary: 'One trial', params: idParam, response: s.trial },
  cancelTrial: {
    method: 'post',
    path: '/trials/{id}/cancel',
    access: ADMINS,
    summary: 'Cancel a trial',
    params: idParam,
    response: s.trial,
  },
  deleteTrial: { method: 'delete', path: '/trials/{id}', access: ADMINS, summary: 'Remove a trial', params: idParam, response: nothing },
  listTrialRows: {
    method: 'get',
    path: '/trials/{id}/emails',
    access: ADMINS,
    summary: 'The emails behind a trial’s numbers',
    params: idParam,
    query: s.trialQuery,
    response: z.object({ rows: z.array(s.trialRow), total: z.number().int() }),
  },
  listTrialMade: {
    method: 'get',
    path: '/trials/{id}/not-created',
    access: ADMINS,
    summary: 'Records that mail created and that the draft of a trial would not create',
    params: idParam,
    query: z.object({ offset: z.coerce.number().int().min(0).default(0), limit: z.coerce.number().int().min(1).max(500).default(100) }),
    response: z.object({ records: z.array(s.trialMadeRow), total: z.number().int() }),
  },
  getTrialDocket: {
    method: 'get',
    path: '/trials/{id}/emails/{email}',
    access: ADMINS,
    summary: 'Both dockets of an email in a trial, for those who may read the email',
    params: idParam.extend({ email: z.coerce.number().int().positive() }),
    response: z.object({ before: z.array(s.docketEntry), after: z.array(s.docketEntry), stop: z.string().nullable() }),
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
