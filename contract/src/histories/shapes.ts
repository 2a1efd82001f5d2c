import { z } from 'zod';
import { cursor, direction, id, mailClass, moment, outcome, recordKey, shareLevel } from '../base/values';
import { emailMeasure, filing, meeting, person } from '../emails/shapes';
import { activity, activityKind } from '../records/activityShapes';
import { mailFigures, outsider } from '../records/shapes';

export const historyQuery = z.object({
  after: cursor.optional(),
  limit: z.coerce.number().int().min(1).max(50).default(12),
  person: z.string().max(320).optional().describe('An address that takes part.'),
  colleague: z.coerce.number().int().positive().optional().describe('A member in whose mailbox it lies.'),
  direction: direction.optional(),
  attachment: z.enum(['yes']).optional(),
  text: z.string().max(500).optional(),
  until: z.iso.date().optional().describe('Up to and with this day.'),
  under: recordKey.optional().describe('Also under this record, as `kind:id`.'),
});

export type HistoryQuery = z.input<typeof historyQuery>;

export const historyEmail = z.object({
  id,
  at: moment,
  direction: direction.nullable(),
  outcome: outcome.nullable(),
  mailClass,
  visibility: shareLevel,
  mailboxes: z.array(z.string()),
  filings: z.array(filing),
  content: z
    .object({
      subject: z.string(),
      from: person.nullable(),
      recipients: z.array(person),
      recipientCount: z.number().int(),
      parts: z.array(z.object({ kind: z.enum(['own', 'quote', 'signature']), text: z.string() })),
      shortened: z.boolean(),
      hasHtml: z.boolean(),
      attachments: z.array(
        z.object({ position: z.number().int(), name: z.string(), type: z.string(), size: z.number().int(), inline: z.boolean() }),
      ),
      meetings: z.array(meeting),
    })
    .nullable(),
  measure: emailMeasure.nullable().describe('What was counted of an email that was sent from here; null: nothing is.'),
});

export type HistoryEmail = z.infer<typeof historyEmail>;

export const historyConversation = z.object({
  id,
  subject: z.string(),
  lastAt: moment,
  firstAt: moment,
  emailCount: z.number().int(),
  emails: z.array(historyEmail),
});

export type HistoryConversation = z.infer<typeof historyConversation>;

export const historyPage = z.object({
  conversations: z.array(historyConversation),
  next: z.string().nullable(),
  found: z
    .object({ conversations: z.number().int(), emails: z.number().int(), events: z.number().int().describe('Of calendars.') })
    .nullable()
    .describe('How many there are in all; on the first page.'),
  logged: z.array(activity).describe('What members wrote down of contact that is not mail, in the time of this page, the latest first.'),
});

export type HistoryPage = z.infer<typeof historyPage>;

/** What people look at before they write. */
export const insights = z.object({
  figures: mailFigures,
  months: z.array(z.object({ month: z.string(), sent: z.number().int(), received: z.number().int() })).describe('The last 12 months.'),
  answerHours: z
    .object({ ours: z.number().nullable(), theirs: z.number().nullable() })
    .describe('Median hours until an answer, of the last 12 months; null where there were too few.'),
  acquaintances: z
    .array(
      z.object({
        colleague: z.string(),
        person: z.string(),
        address: z.string(),
        sent: z.number().int(),
        received: z.number().int(),
        lastAt: moment,
        strength: z.enum(['well', 'somewhat', 'hardly']),
      }),
    )
    .describe('Who of us knows whom of them, the best first.'),
  unanswered: z.array(z.object({ emailId: id, conversationId: id, subject: z.string(), from: z.string(), since: moment })),
  deals: z.array(z.object({ id, name: z.string(), stage: z.string(), amount: z.number().nullable(), currency: z.string() })),
  meeting: z.object({ emailId: id, at: moment, until: moment, summary: z.string(), location: z.string() }).nullable(),
  lastLogged: z
    .object({ at: moment, kind: activityKind, writer: z.string() })
    .nullable()
    .describe('The last contact of a record that was logged by hand.'),
});

export type Insights = z.infer<typeof insights>;

/** Whom an email concerns in the records: an external person who takes part. */
export const concernedPerson = outsider.extend({
  deals: z.array(z.object({ id, name: z.string(), stage: z.string() })).describe('Open ones.'),
  meeting: z.object({ at: moment, summary: z.string() }).nullable(),
  lastContact: z
    .object({ at: moment, colleague: z.string(), direction: z.string() })
    .nullable()
    .describe('With any colleague, before this email, of what the reader may know.'),
});

export type ConcernedPerson = z.infer<typeof concernedPerson>;
