import { z } from 'zod';
import { id, moment } from '../base/values';
import { recordQuery } from '../records/shapes';

/** Most people who get an email at once. */
export const MOST_IN_BULK = 500;

export const bulkOrder = z.strictObject({
  kind: z.enum(['contact', 'lead']),
  filter: z
    .strictObject(recordQuery.omit({ sort: true, descending: true, offset: true, limit: true }).shape)
    .describe('As a list of records is narrowed; empty: all of the kind.'),
  templateId: id.describe('A published template with a subject.'),
});

export const leftOutReason = z
  .enum(['no address', 'twice', 'colleague', 'kept out', 'erased', 'unsubscribed', 'bounced', 'has a series'])
  .describe('Why someone gets no such email.');

export type LeftOutReason = z.infer<typeof leftOutReason>;

export const bulkPreview = z.object({
  found: z.number().int(),
  people: z.number().int().describe('How many get the email.'),
  leftOut: z.array(z.object({ why: leftOutReason, count: z.number().int(), names: z.array(z.string()).describe('Of the first of them.') })),
  perDay: z.number().int().describe('Most emails that a mailbox sends by itself in a day.'),
});

export type BulkPreview = z.infer<typeof bulkPreview>;

export const bulkSend = z.object({
  id,
  name: z.string(),
  total: z.number().int(),
  sent: z.number().int(),
  waiting: z.number().int(),
  stopped: z.number().int().describe('Those to whom nothing was sent, since something spoke against it, or it was stopped.'),
  leftOut: z.record(z.string(), z.number().int()),
  isStopped: z.boolean(),
  createdAt: moment,
});

export type BulkSend = z.infer<typeof bulkSend>;
