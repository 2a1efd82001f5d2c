import { z } from 'zod';
import { recordKind } from './values';

const id = z.number().int().positive();
const moment = z.iso.datetime({ offset: true });

/** Who sees an email beside those who use the mailboxes that hold it. */
export const shareLevel = z.enum(['owner', 'record', 'teams', 'everyone']);
export const outcome = z.enum(['filed', 'waiting', 'loose', 'kept out', 'sealed']);
export type Outcome = z.infer<typeof outcome>;
export const direction = z.enum(['sent', 'received', 'internal']);
export const mailClass = z.enum(['person', 'newsletter', 'notice', 'auto-reply', 'bounce', 'calendar']);

export const filing = z.object({ kind: recordKind, id, name: z.string(), rule: z.string(), created: z.boolean() });
export type Filing = z.infer<typeof filing>;

export const person = z.object({
  role: z.enum(['from', 'sender', 'replyTo', 'to', 'cc', 'bcc']),
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
