import { z } from 'zod';
import { email, id, moment } from '../base/values';
import { keptFor, keptScope } from './keptShapes';

export const seriesStep = z
  .strictObject({
    kind: z.enum(['email', 'task']).describe('email: a template is sent. task: its member does something and says so.'),
    waitDays: z
      .number()
      .int()
      .min(0)
      .max(90)
      .describe('Working days after the step before it; of the first, after the beginning. 0: at once.'),
    templateId: id.nullable().default(null).describe('Of an email. A template without a subject goes on in the conversation.'),
    text: z.string().trim().max(500).default('').describe('Of a task: what is to be done.'),
  })
  .refine(({ kind, templateId, text }) => (kind === 'email' ? templateId !== null : text !== ''), {
    message: 'needs a template, or what is to be done',
  });

/** What can be changed of a series. Those that go on with someone go on by the steps that they began with. */
export const seriesContent = z.strictObject({
  name: z.string().trim().min(1, { message: 'is missing' }).max(120),
  ...keptFor,
  steps: z.array(seriesStep).min(1, { message: 'needs a step' }).max(20),
});

export type SeriesContent = z.input<typeof seriesContent>;

export const seriesRow = z.object({
  id,
  name: z.string(),
  scope: keptScope,
  team: z.object({ id, name: z.string() }).nullable(),
  language: z.string(),
  stepCount: z.number().int(),
  owner: z.string(),
  isMine: z.boolean().describe('The reader may change it.'),
  isRemoved: z.boolean(),
  open: z.number().int().describe('With how many people the reader has it going on.'),
  changedAt: moment,
});

export type SeriesRow = z.infer<typeof seriesRow>;

const shownStep = z.object({
  kind: z.enum(['email', 'task']),
  waitDays: z.number().int(),
  templateId: id.nullable(),
  text: z.string(),
  template: z.string().nullable().describe('Name of the template; null: the reader finds none.'),
});

export const seriesDetail = seriesRow.extend({ revision: z.number().int(), steps: z.array(shownStep) });

export type SeriesDetail = z.infer<typeof seriesDetail>;

export const runState = z
  .enum(['waiting', 'to look at', 'to do', 'sending', 'ended', 'stopped'])
  .describe(
    'waiting: for the time of its next step. to look at: an email is written, and its member sends it. to do: a task, until its member says that it is done. sending: an email is on its way.',
  );

export const stopReason = z.enum([
  'answered',
  'bounced',
  'refused',
  'meeting',
  'deal closed',
  'kept out',
  'erased',
  'other series',
  'unsubscribed',
  'by hand',
  'left',
  'no text',
]);

export const seriesRun = z.object({
  id,
  seriesId: id.nullable().describe('Null: an email to many.'),
  name: z.string().describe('Of the series, as it was called when it began.'),
  to: z.object({ name: z.string(), address: z.string() }),
  state: runState,
  atStep: z.number().int().describe('Which step is next, or at work; from 1.'),
  stepCount: z.number().int(),
  task: z.string().nullable().describe('What is to be done now.'),
  outgoingId: id.nullable().describe('The email of the step at work.'),
  dueAt: moment,
  asks: z.boolean().describe('Each email is shown to its member before it is sent.'),
  why: stopReason.nullable(),
  problem: z.string().describe('What its member is to know; empty: nothing.'),
  stoppedByEmail: id.nullable().describe('The email that stopped it, where the reader may see it.'),
  startedAt: moment,
  endedAt: moment.nullable(),
});

export type SeriesRun = z.infer<typeof seriesRun>;

export const startSeries = z.strictObject({
  to: z.strictObject({ name: z.string().trim().max(200).default(''), address: email }),
  dealId: id.nullable().default(null).describe('Its emails are filed under the deal, and it stops when the deal is closed.'),
  mailboxId: id.nullable().default(null).describe('Null: the first address that its member sends from.'),
  fromAddress: email.nullable().default(null),
  asks: z.boolean().default(true).describe('Each email is shown before it is sent.'),
  zone: z
    .string()
    .max(60)
    .default('UTC')
    .refine(isZone, { message: 'must be a time zone such as Europe/Berlin' })
    .describe('By whose clock the days are counted.'),
  instead: z.boolean().default(false).describe('A series of the same member with this person is stopped.'),
});

function isZone(zone: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: zone });
    return true;
  } catch {
    return false;
  }
}
