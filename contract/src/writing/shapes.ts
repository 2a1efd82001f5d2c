import { z } from 'zod';
import { email, id, moment, recordKind } from '../base/values';
import { emailMeasure } from '../emails/shapes';

export const sendingState = z
  .enum(['draft', 'due', 'handing over', 'sent', 'refused', 'bounced', 'unclear'])
  .describe(
    'draft: being written. due: waits for its time and can be taken back. handing over: given to the mail server right now. sent: the mail server took it. refused: not sent, with why. bounced: sent, and it came back. unclear: the connection ended before the mail server answered; its writer says whether it was sent.',
  );

export const writingKind = z.enum(['new', 'answer', 'answer all', 'forward']);

const recipient = z.strictObject({ name: z.string().trim().max(200).default(''), address: email });

const recordRef = z.strictObject({ kind: recordKind, id });

const namedRecord = z.object({ kind: recordKind, id, name: z.string() });

export const filingChoice = z
  .enum(['rules', 'records', 'none'])
  .describe('rules: as the rulebook files it. records: under the chosen records, and as the rulebook files it. none: under no record.');

const remindDays = z
  .number()
  .int()
  .min(1)
  .max(365)
  .nullable()
  .describe('After so many days without an answer its writer is reminded; null: never.');

const MOST_RECIPIENTS = 100;
const LONGEST_HTML = 400_000;

/** Most bytes of all files of an email. */
export const MOST_FILE_BYTES = 20 * 1024 * 1024;
/** Seconds in which an email that was sent can be taken back. */
export const TAKE_BACK_SECONDS = 10;

const recipients = z.array(recipient).max(MOST_RECIPIENTS).default([]);

/** What a writer can change of an email that is not sent. */
export const outgoingContent = z.strictObject({
  revision: z
    .number()
    .int()
    .min(0)
    .describe('As it was read. Where it has changed since, for instance in another window, nothing is saved.'),
  mailboxId: id.describe('The mailbox that it is sent from.'),
  fromAddress: email
    .nullable()
    .default(null)
    .describe('A proven alias of the mailbox that it is sent as; null: the address of the mailbox.'),
  withSignature: z.boolean().default(true).describe('Whether the signature of the address is sent along below the text.'),
  to: recipients,
  cc: recipients,
  bcc: recipients,
  subject: z.string().max(998).default(''),
  html: z.string().max(LONGEST_HTML).default(''),
  withQuote: z.boolean().default(true).describe('Whether the quoted text is sent along below.'),
  filing: z.strictObject({ how: filingChoice, records: z.array(recordRef).max(20).default([]) }),
  remindDays: remindDays.default(null),
  measured: z
    .boolean()
    .default(false)
    .describe('Whether openings and clicks are counted, where the workspace, the mailbox and the recipient allow it.'),
});

export type OutgoingContent = z.input<typeof outgoingContent>;

const outgoingFile = z.object({
  id,
  name: z.string(),
  type: z.string(),
  size: z.number().int(),
  inline: z.boolean().describe('It is a picture in the text.'),
});

const person = z.object({ name: z.string(), address: z.string() });

export const outgoingRow = z.object({
  id,
  state: sendingState,
  kind: writingKind,
  from: z.string(),
  to: z.array(person),
  subject: z.string(),
  dueAt: moment.nullable(),
  sentAt: moment.nullable(),
  changedAt: moment,
  problem: z.string().describe('Why it was refused, came back, or what is unclear; empty: nothing.'),
  emailId: id.nullable().describe('The email as it is filed, once it was sent.'),
  measure: emailMeasure.nullable().describe('What was counted of it; null: nothing is.'),
});

export type OutgoingRow = z.infer<typeof outgoingRow>;

export const outgoing = outgoingRow.extend({
  revision: z.number().int(),
  mailboxId: id,
  fromAddress: z.string().nullable(),
  withSignature: z.boolean(),
  cc: z.array(person),
  bcc: z.array(person),
  html: z.string(),
  quote: z.string().describe('What is quoted of the answered email, as HTML; empty: nothing.'),
  withQuote: z.boolean(),
  filing: z.object({ how: filingChoice, records: z.array(namedRecord) }),
  answers: z.object({ emailId: id, subject: z.string() }).nullable().describe('The email that it answers or forwards.'),
  files: z.array(outgoingFile),
  remindDays,
  measured: z.boolean(),
});

export type Outgoing = z.infer<typeof outgoing>;

export const startOutgoing = z.strictObject({
  kind: writingKind.default('new'),
  emailId: id.nullable().default(null).describe('The email that is answered or forwarded.'),
  to: recipients,
  record: recordRef.nullable().default(null).describe('The record from which it is written: it is filed there.'),
});

export const sender = z.object({
  mailboxId: id,
  address: z.string(),
  name: z.string().describe('As it is sent.'),
  signature: z.string().describe('HTML with merge fields of the sender; empty: none.'),
  signed: z.string().describe('The signature as it is sent.'),
  isAlias: z.boolean(),
  isProven: z.boolean().describe('An alias is sent from once its code is confirmed.'),
  codeSentAt: moment.nullable().describe('When a code was sent to an alias that is not proven.'),
});

export type Sender = z.infer<typeof sender>;

export const recipientFound = z.object({
  name: z.string(),
  address: z.string(),
  hint: z.string().describe('Whose address it is: an account, or that it is a colleague’s.'),
});

export type RecipientFound = z.infer<typeof recipientFound>;

export const outgoingPreview = z.object({
  outcome: z.string().describe('As an email is decided: filed, waiting, unfiled or kept out.'),
  sentence: z.string().describe('How it will be filed, in one sentence.'),
  records: z.array(namedRecord.extend({ chosen: z.boolean().describe('By the writer, not by a rule.') })),
  warnings: z.array(z.object({ code: z.string(), text: z.string() })),
  measuring: z
    .object({ why: z.string().describe('Why openings of it cannot be counted; empty: they can.'), notice: z.string() })
    .nullable()
    .describe('Null: the workspace counts none.'),
});

export type OutgoingPreview = z.infer<typeof outgoingPreview>;

export const recipientClock = z.object({
  offsetMinutes: z.number().int().describe('From UTC.'),
  at: moment.describe('When they wrote the email that says so; their clock may have changed since.'),
  name: z.string(),
});

export type RecipientClock = z.infer<typeof recipientClock>;

export const reminder = z
  .object({ id, emailId: id, subject: z.string(), to: z.array(z.string()), sentAt: moment })
  .describe('An email that the reader sent from here, and that no one answered in the days that they chose.');

export type Reminder = z.infer<typeof reminder>;
