import { z } from 'zod';

/** What past mail says of one domain outside. */
export const domainRow = z.object({
  domain: z.string(),
  emails: z.number().int(),
  sent: z.number().int(),
  received: z.number().int(),
  machine: z.number().int().describe('Emails that no person wrote.'),
  filed: z.number().int(),
  waiting: z.number().int(),
  loose: z.number().int(),
  keptOut: z.number().int(),
  last: z.iso.datetime({ offset: true }),
  account: z.string().nullable().describe('The account that the domain belongs to.'),
  rule: z.string().nullable().describe('The rule that spoke on most of them.'),
});
export type DomainRow = z.infer<typeof domainRow>;

export const tuningQuery = z.object({
  show: z.enum(['all', 'unmatched', 'junk']).default('unmatched'),
  days: z.coerce.number().int().min(1).max(3650).default(90),
  text: z.string().trim().max(200).default(''),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});
export type TuningQuery = z.output<typeof tuningQuery>;

/** A rule that past mail suggests, with what a small trial over the mail that it is about says of it. */
export const suggestion = z.object({
  code: z.enum(['machine-domain', 'one-sided', 'like-account', 'second-address', 'correspondents', 'filed-by-hand', 'taken-off']),
  about: z.string(),
  because: z.string(),
  stop: z.enum(['keepOut', 'takeIn', 'match', 'create', 'share']),
  rule: z.unknown(),
  effect: z.object({
    emails: z.number().int().describe('Emails that were tried: the newest with that domain or address.'),
    changed: z.number().int(),
    filed: z.number().int(),
    unfiled: z.number().int(),
    keptOut: z.number().int(),
    created: z.number().int(),
  }),
});
export type SuggestionRow = z.infer<typeof suggestion>;
