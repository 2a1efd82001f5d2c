import { z } from 'zod';
import { id, moment, outcome } from '../base/values';
import { emailRow } from '../emails/shapes';

const counts = z.record(z.string(), z.number().int());

export const ruleCount = z.object({
  took: z.number().int().describe('Past emails on which the condition holds.'),
  of: z.number().int(),
  first: z.number().int().describe('Those of them on which no earlier rule of the step speaks.'),
  read: z.number().int().describe('How many of the newest past emails have been read for it.'),
  total: z.number().int().describe('How many there are.'),
  examples: z.array(emailRow),
});

export type RuleCount = z.infer<typeof ruleCount>;

/** What a rule would change of past mail. */
export const ruleChanges = z.object({
  tried: z.number().int().describe('The newest past emails that the rule is about, as it was or as it would be: these were decided.'),
  changed: z.number().int(),
  moves: z
    .array(z.object({ before: outcome, after: outcome, emails: z.number().int() }))
    .describe('From which outcome to which, the most first; the same outcome where the records or who sees it change.'),
  newlySeen: z.number().int().describe('Emails that more people would see.'),
  noLongerSeen: z.number().int(),
  created: z.number().int().describe('Records that would be created.'),
  examples: z.array(z.object({ email: emailRow, before: outcome, after: outcome, seen: z.enum(['newly', 'no longer']).nullable() })),
});

export type RuleChanges = z.infer<typeof ruleChanges>;

export const trialSummary = z.object({
  emails: z.number().int(),
  byDirection: counts,
  changed: z.number().int(),
  steps: z.record(z.string(), counts),
  matrix: z.record(z.string(), counts),
  created: z.array(
    z.object({
      kind: z.enum(['contact', 'lead', 'account']),
      name: z.string(),
      via: z.string(),
      confidence: z.number(),
      like: z.string().nullable(),
    }),
  ),
  createdCount: z.number().int(),
  won: counts,
  lost: counts,
  records: z.array(z.object({ key: z.string(), name: z.string(), won: z.number().int(), lost: z.number().int() })),
  newlySeen: z.number().int(),
  noLongerSeen: z.number().int(),
  waiting: z.number().int(),
  byRule: counts,
});

export const trial = z.object({
  id,
  name: z.string(),
  by: z.string().nullable(),
  at: moment,
  baseVersion: z.number().int(),
  since: moment.nullable(),
  mailboxes: z.array(z.string()),
  withoutMade: z.boolean().describe('Decided as if the records that mail created, and that no one has touched since, were not there.'),
  made: z
    .object({ again: z.number().int(), notAgain: z.number().int() })
    .nullable()
    .describe('Of the records that it took as not there: how many the draft creates again, and how many not.'),
  state: z.enum(['queued', 'running', 'done', 'cancelled', 'failed']),
  done: z.number().int(),
  total: z.number().int(),
  message: z.string(),
  summary: trialSummary.nullable(),
  isDraft: z.boolean().describe('The draft is still what was tried.'),
});

export type Trial = z.infer<typeof trial>;

export type TrialSummary = z.infer<typeof trialSummary>;

/** A record that mail created and a trial's draft would not create. */
export const trialMadeRow = z.object({
  key: z.string().describe('As `kind:id`.'),
  name: z.string(),
  via: z.string().describe('The address or the domain that it was created for.'),
  emails: z.number().int().describe('Emails filed under it that would no longer be.'),
});

export type TrialMadeRow = z.infer<typeof trialMadeRow>;

export const trialRow = z.object({
  email: emailRow,
  outcomeBefore: outcome.nullable(),
  outcomeAfter: outcome,
  visibilityBefore: z.string().describe('Who sees it: a level, its teams, and “exists” where only that it exists is seen.'),
  visibilityAfter: z.string(),
  seen: z.enum(['newly', 'no longer']).nullable().describe('Colleagues would see more of it, or less.'),
  step: z.string().nullable(),
  won: z.array(z.string()),
  lost: z.array(z.string()),
});

export type TrialRow = z.infer<typeof trialRow>;

export const trialQuery = z.object({
  before: z.string().max(20).optional(),
  after: z.string().max(20).optional(),
  step: z.string().max(20).optional(),
  record: z.string().max(40).optional().describe('As `kind:id`.'),
  seen: z.enum(['newly', 'no longer']).optional(),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});
