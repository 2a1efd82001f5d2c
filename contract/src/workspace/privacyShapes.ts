import { z } from 'zod';
import { id, moment, recordKind } from '../base/values';

const address = z
  .string()
  .trim()
  .toLowerCase()
  .min(3)
  .max(320)
  .regex(/^[^\s@]+@[^\s@]+\.[^\s@]+$/, { message: 'must be an address such as ida@harbour.example' });

export const personQuestion = z.strictObject({ addresses: z.array(address).min(1, { message: 'needs an address' }).max(50) });

export type PersonQuestion = z.input<typeof personQuestion>;

/** What is held about an external person, as far as whoever asks may know. */
export const personHeld = z.object({
  addresses: z.array(z.string()),
  names: z.array(z.string()).describe('Names under which they are met.'),
  further: z.array(z.string()).describe('Further addresses that their records have: perhaps theirs, too.'),
  records: z.array(z.object({ kind: recordKind, id, name: z.string() })),
  emailsAlone: z.number().int().describe('Emails in which no one else from outside takes part.'),
  emailsShared: z.number().int().describe('Emails in which others from outside take part, too.'),
  mentions: z.number().int().describe('Emails of others that name them.'),
  words: z.number().int().describe('Shares, seals and keep-outs of members that name them.'),
  rules: z.array(z.string()).describe('Where rules and address lists name their address; these are changed by hand.'),
});

export type PersonHeld = z.infer<typeof personHeld>;

export const eraseRequest = personQuestion.extend({
  way: z
    .enum(['erase', 'anonymise'])
    .describe(
      'erase: emails in which no one else from outside takes part go. anonymise: they stay, without the person. Emails with others always stay, without the person.',
    ),
  reference: z.string().trim().max(200).default('').describe('Your reference of the request; not the person’s name.'),
  confirm: z.string().describe('The first address, written again.'),
});

export type EraseRequest = z.input<typeof eraseRequest>;

export const erasure = z.object({
  id,
  at: moment,
  by: z.string(),
  reference: z.string(),
  counts: z.record(z.string(), z.number().int()),
  certificate: z.string(),
});

export type Erasure = z.infer<typeof erasure>;

export const retentionKind = z.enum(['keptOut', 'unfiled', 'closedDeals']);

export type RetentionKind = z.infer<typeof retentionKind>;

export const retentionRule = z.object({
  kind: retentionKind,
  days: z.number().int().nullable(),
  lastRunAt: moment.nullable(),
  wouldGo: z.number().int().describe('Emails that would go now, of those that whoever asks may know of.'),
  oldest: moment.nullable(),
});

export type RetentionRule = z.infer<typeof retentionRule>;

export const retentionChange = z.strictObject({ kind: retentionKind, days: z.number().int().min(1).max(36_500).nullable() });

export type RetentionChange = z.input<typeof retentionChange>;
