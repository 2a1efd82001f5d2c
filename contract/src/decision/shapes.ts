import { z } from 'zod';
import { id, moment } from '../base/values';

/** Whom a member keeps out of their own mailboxes. */
export const ownKeepOut = z.object({ id, kind: z.enum(['address', 'domain']), value: z.string(), at: moment });

export type OwnKeepOut = z.infer<typeof ownKeepOut>;

/** Beyond the decision: what nearly happened, and what would have to change for another outcome. */
export const explanation = z.object({
  nearly: z.array(z.object({ step: z.string(), rule: z.string(), text: z.string() })),
  changes: z.array(z.object({ change: z.string(), then: z.string() })),
});

export type Explanation = z.infer<typeof explanation>;

export const whyNot = z.object({
  filed: z.boolean().describe('It does stand under the record.'),
  name: z.string(),
  reasons: z.array(z.string()),
  changes: z.array(z.string()).describe('Each would put it there, as was tried by deciding it again; in words behind “if”.'),
});

export type WhyNotAnswer = z.infer<typeof whyNot>;

export const keepOutRequest = z.strictObject({
  kind: z.enum(['domain', 'address']),
  value: z.string().trim().min(3).max(320),
  exactly: z.boolean().default(false),
  effect: z.enum(['ignore', 'keepOut']).default('ignore'),
  note: z.string().trim().max(500).default(''),
});

export type KeepOutRequest = z.input<typeof keepOutRequest>;

export const keepOutPreview = z.object({
  value: z.string(),
  concerned: z.number().int().describe('Emails with this participant.'),
  tried: z
    .number()
    .int()
    .describe('Of these, the newest, which were decided to see what would come of it; the numbers below are about them.'),
  wouldLeave: z.number().int().describe('Of those tried, emails that would be kept out.'),
  filedNow: z.number().int().describe('Of those, emails that are filed under a record now.'),
  records: z.number().int().describe('Records that would lose all their emails.'),
  already: z.string().nullable().describe('The entry that keeps it out already.'),
  warning: z.string().nullable(),
});

export type KeepOutPreview = z.infer<typeof keepOutPreview>;

export const allowAgainPreview = keepOutPreview.pick({ value: true, concerned: true, tried: true }).extend({
  wouldReturn: z.number().int().describe('Of those tried, emails that would no longer be kept out.'),
  wouldBeFiled: z.number().int().describe('Of those tried, emails that would be filed under a record under which they are not filed now.'),
});

export type AllowAgainPreview = z.infer<typeof allowAgainPreview>;

export const decideRun = z.object({
  id,
  state: z.enum(['queued', 'running', 'done', 'cancelled', 'failed']),
  done: z.number().int(),
  total: z.number().int(),
  changed: z.number().int(),
  message: z.string(),
  phase: z
    .enum(['deciding', 'writing'])
    .describe('deciding: nothing is changed yet. writing: all of it is being put in place as one step.'),
  since: moment.nullable().describe('Over mail from this time on; null: all.'),
  mailboxes: z.array(z.string()).describe('Over mail in these mailboxes; empty: all.'),
  takenBack: z.number().int().describe('Records that mail had created and that it took back.'),
});

export type DecideRun = z.infer<typeof decideRun>;
