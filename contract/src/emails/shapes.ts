import { GUEST_ANSWERS } from '@fulvet/core';
import { MOST_COUNTED, MOST_FOUND } from './mostCounted';
import { z } from 'zod';
import { cursor, direction, id, mailClass, moment, outcome, recordKind, shareLevel } from '../base/values';

export const filing = z.object({ kind: recordKind, id, name: z.string(), rule: z.string(), created: z.boolean() });

export type Filing = z.infer<typeof filing>;

export const person = z.object({
  role: z.enum(['from', 'sender', 'replyTo', 'to', 'cc', 'bcc', 'claimed']),
  address: z.string(),
  name: z.string(),
  ours: z.boolean(),
});

export type Person = z.infer<typeof person>;

/** An email in a list. `content` is null where the reader may know that it exists but not what it says. */
export const emailRow = z.object({
  id,
  at: moment,
  direction: direction.nullable(),
  outcome: outcome.nullable(),
  mailClass,
  visibility: shareLevel,
  conversationId: id,
  mailboxes: z.array(z.string()),
  externalDomains: z.array(z.string()),
  hasProblems: z.boolean(),
  filings: z.array(filing),
  content: z
    .object({
      subject: z.string(),
      preview: z.string(),
      from: person.nullable(),
      to: z.array(person),
      recipientCount: z.number().int(),
      attachmentCount: z.number().int(),
    })
    .nullable(),
});

export type EmailRow = z.infer<typeof emailRow>;

export const docketEntry = z.object({
  step: z.string(),
  title: z.string(),
  verdict: z.string(),
  rule: z.string().nullable(),
  ruleText: z.string().nullable(),
  because: z.array(z.string()),
});

export type DocketEntry = z.infer<typeof docketEntry>;

/** A meeting that an email invites to, changes or cancels. */
export const meeting = z.object({
  summary: z.string(),
  location: z.string(),
  startsAt: moment,
  endsAt: moment,
  cancelled: z.boolean(),
  answers: z.record(z.string(), z.enum(GUEST_ANSWERS)).describe('What guests answered, by their addresses.'),
});

export type Meeting = z.infer<typeof meeting>;

const counted = z.object({
  times: z.number().int().describe('What is likely a person’s; 0: not known.'),
  first: moment.nullable(),
  last: moment.nullable(),
});

export const emailMeasure = z
  .object({
    address: z.string().describe('To whom it went.'),
    opened: counted,
    links: z.array(counted.extend({ kind: z.enum(['link', 'document']), name: z.string() })),
    notCounted: z
      .object({ prefetch: z.number().int(), scanner: z.number().int(), own: z.number().int() })
      .describe('What was asked for by programs that load or check emails for others, and by colleagues.'),
  })
  .describe('What was counted of an email. Programs can look like persons: it is likely, never certain.');

export type EmailMeasure = z.infer<typeof emailMeasure>;

export const emailDetail = z.object({
  id,
  at: moment,
  dateSource: z.string(),
  messageId: z.string().nullable(),
  direction: direction.nullable(),
  outcome: outcome.nullable(),
  mailClass,
  classProof: z.object({ header: z.string(), value: z.string() }).nullable(),
  senderCheck: z.enum(['passed', 'failed', 'none']).describe('What the server that received it found about its sender (RFC 8601).'),
  visibility: shareLevel,
  sharedTeams: z.array(z.string()),
  existenceOnly: z.boolean(),
  conversationId: id,
  owned: z.boolean().describe('The reader uses a mailbox that holds it.'),
  size: z.number().int(),
  sightings: z.array(z.object({ mailbox: z.string(), owner: z.string(), folder: z.string() })),
  externalDomains: z.array(z.string()),
  problems: z.array(z.object({ code: z.string(), message: z.string() })),
  filings: z.array(filing),
  docket: z.array(docketEntry),
  rulebookVersion: z.number().int().nullable(),
  measure: emailMeasure.nullable().describe('What was counted of an email that was sent from here; null: nothing is.'),
  questions: z.array(
    z.object({
      about: z.enum(['deal', 'account', 'filing', 'hold', 'person']),
      kind: recordKind.describe('What the candidates are.'),
      candidates: z.array(z.object({ id, name: z.string() })),
      domain: z.string().nullable(),
    }),
  ),
  content: z
    .object({
      subject: z.string(),
      participants: z.array(person),
      parts: z.array(z.object({ kind: z.enum(['own', 'quote', 'signature']), text: z.string() })),
      hasHtml: z.boolean(),
      attachments: z.array(
        z.object({ position: z.number().int(), name: z.string(), type: z.string(), size: z.number().int(), inline: z.boolean() }),
      ),
      meetings: z.array(meeting),
    })
    .nullable(),
});

export type EmailDetail = z.infer<typeof emailDetail>;

export const emailQuery = z.object({
  outcome: z.string().optional().describe('One outcome, or several separated by commas; "undecided" too.'),
  mailbox: z.string().optional(),
  person: z.string().optional().describe('An address.'),
  domain: z.string().optional(),
  mailClass: z.string().optional(),
  direction: z.string().optional(),
  from: z.iso.date().optional(),
  until: z.iso.date().optional(),
  text: z.string().max(500).optional(),
  conversation: z.coerce.number().int().optional(),
  problems: z.enum(['yes', 'damaged']).optional().describe('yes: any problem; damaged: the stored source cannot be read.'),
  rule: z.string().max(120).optional().describe('Filed by this rule, or corrected after it.'),
  applied: z.string().max(120).optional().describe('A step was decided by this rule.'),
  corrected: z.enum(['yes', 'no']).optional().describe('yes: people took a filing by a rule away by hand; no: it stands.'),
  answered: z
    .enum(['yes', 'no'])
    .optional()
    .describe('Of what people of ours sent: whether an external person wrote in its conversation, or was reached, since.'),
  opened: z
    .enum(['yes', 'no'])
    .optional()
    .describe('Of the last 5,000 measured emails that the reader may know of: whether a person likely opened it.'),
  mine: z.enum(['yes']).optional().describe('Of mailboxes that the reader uses.'),
  after: cursor.optional().describe('Cursor of the page before.'),
  limit: z.coerce.number().int().min(1).max(200).default(60),
});

export type EmailQuery = z.input<typeof emailQuery>;

export const emailPage = z.object({
  emails: z.array(emailRow),
  next: z.string().nullable(),
  total: z
    .number()
    .int()
    .describe(`How many there are in all, counted up to ${MOST_COUNTED}; with words to search for, up to ${MOST_FOUND}.`),
  isMore: z.boolean().describe('Whether there are more than were counted.'),
});

export type EmailPage = z.infer<typeof emailPage>;

export const searchResult = z.object({
  records: z.array(z.object({ kind: recordKind, id, name: z.string(), detail: z.string() })),
  emails: z.array(emailRow),
  emailTotal: z.number().int().describe(`How many emails say it, counted up to ${MOST_FOUND}.`),
  isMore: z.boolean().describe('Whether more emails say it than were counted.'),
});

export type SearchResult = z.infer<typeof searchResult>;

export const exportedDecision = z.object({
  messageId: z.string().nullable(),
  date: moment,
  direction: direction.nullable(),
  mailClass,
  outcome: outcome.nullable(),
  conversation: id,
  filings: z.array(z.object({ kind: recordKind, id, name: z.string(), rule: z.string() })),
  created: z.array(z.object({ kind: recordKind, id, name: z.string() })),
  visibility: shareLevel,
  sharedTeams: z.array(z.string()).optional().describe('Teams that see it, for that level.'),
  existenceOnly: z.boolean().optional().describe('Whoever sees it by its level, sees only that it exists.'),
});

export type ExportedDecision = z.infer<typeof exportedDecision>;
