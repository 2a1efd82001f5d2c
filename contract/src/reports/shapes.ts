import { z } from 'zod';
import { task } from '../agenda/shapes';
import { id, moment, recordKind } from '../base/values';
import { seriesRun } from '../writing/seriesShapes';
import { reminder } from '../writing/shapes';

/** What past mail says of one external domain. */
export const domainRow = z.object({
  domain: z.string(),
  emails: z.number().int(),
  sent: z.number().int(),
  received: z.number().int(),
  machine: z.number().int().describe('Emails that no person wrote.'),
  filed: z.number().int(),
  waiting: z.number().int(),
  unfiled: z.number().int(),
  keptOut: z.number().int(),
  last: z.iso.datetime({ offset: true }),
  accounts: z.array(z.string()).describe('The accounts that the domain belongs to; several may share it.'),
  rule: z.string().nullable().describe('The rule that spoke on most of them.'),
});

export type DomainRow = z.infer<typeof domainRow>;

export const tuningQuery = z.object({
  show: z.enum(['all', 'unfiled', 'junk']).default('unfiled'),
  days: z.coerce.number().int().min(1).max(3650).default(90),
  text: z.string().trim().max(200).default(''),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

export type TuningQuery = z.output<typeof tuningQuery>;

/** A rule that past mail suggests, with what a small trial over the mail that it is about says of it. */
export const suggestion = z.object({
  code: z.enum([
    'machine-domain',
    'one-sided',
    'like-account',
    'second-address',
    'correspondents',
    'filed-by-hand',
    'taken-off',
    'misspelled',
    'renamed',
    'form-address',
  ]),
  about: z.string(),
  because: z.string(),
  step: z.enum(['keepOut', 'takeIn', 'match', 'create', 'share']),
  does: z
    .enum(['rule', 'addDomain', 'addForm'])
    .describe('rule, addForm: goes into the draft. addDomain: the domain is added to the account at once, which can be undone.'),
  rule: z.unknown().describe('The rule, or null.'),
  account: z.object({ id, name: z.string() }).nullable().describe('The account that gets the domain, or null.'),
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

export const accuracyQuery = z.object({ days: z.coerce.number().int().min(1).max(3650).default(90) });

/** How often a rule that files was right, by what people corrected by hand. */
export const ruleAccuracy = z.object({
  rule: z.string().describe('Id of the rule, as decisions name it.'),
  name: z.string(),
  kinds: z.array(recordKind).describe('What it files under.'),
  since: z.iso.date().describe('The first day that is counted.'),
  filed: z.number().int().describe('Emails that it filed.'),
  corrected: z.number().int().describe('Emails of those that people took away from there by hand.'),
});

export type RuleAccuracyRow = z.infer<typeof ruleAccuracy>;

/** Volumes of the last 30 days at each step. */
export const lineCounts = z.object({
  came: z.number().int(),
  keptOut: z.number().int(),
  leftToOwner: z.number().int(),
  unfiled: z.number().int(),
  waiting: z.number().int(),
  filed: z.number().int(),
  created: z.number().int(),
  shared: z.number().int(),
  undecided: z.number().int(),
  mailboxes: z.number().int(),
  mailboxTrouble: z.number().int().describe('Mailboxes in trouble or stopped, of those that the reader looks after.'),
  mailboxBacklog: z.number().int(),
  histories: z.number().int(),
  questions: z
    .number()
    .int()
    .describe('Questions at the sorting desk, of whatever age: for an administrator all, else those for the reader.'),
});

export type LineCounts = z.infer<typeof lineCounts>;

export const arrival = z.object({
  since: moment.nullable(),
  came: z.number().int(),
  byOutcome: z.record(z.string(), z.number().int()),
  newContacts: z.number().int(),
  newAccounts: z.number().int(),
  waiting: z.number().int(),
  problems: z.number().int(),
  damaged: z.number().int().describe('Emails whose stored source cannot be read.'),
  unanswered: z.array(
    z.object({
      emailId: id,
      at: moment,
      subject: z.string(),
      from: z.string(),
      record: z.object({ kind: recordKind, id, name: z.string() }).nullable(),
    }),
  ),
  meetings: z
    .array(
      z.object({
        emailId: id,
        at: moment,
        until: moment,
        summary: z.string(),
        location: z.string(),
        record: z.object({ kind: recordKind, id, name: z.string() }).nullable(),
      }),
    )
    .describe(
      'Meetings of the next two weeks that emails of the reader invite to, the next first; of several about one, the latest change counts.',
    ),
  reminders: z.array(reminder),
  tasks: z.array(task).describe('What the reader is to do today, and should have done before.'),
  series: z.array(seriesRun).describe('Series of the reader whose step waits for them.'),
  filedForMe: z.number().int(),
  runningImports: z.number().int(),
  undecided: z.number().int(),
  records: z.number().int(),
  emails: z.number().int(),
});

export type Arrival = z.infer<typeof arrival>;

export const mailFlow = z.object({
  weeks: z
    .array(
      z.object({
        from: z.iso.date().describe('The first day of the week of seven days.'),
        filed: z.number().int(),
        waiting: z.number().int(),
        unfiled: z.number().int().describe('Unfiled.'),
        keptOut: z.number().int(),
      }),
    )
    .describe('Oldest first; the last one ends now.'),
});

export type MailFlow = z.infer<typeof mailFlow>;

export const unusualRule = z.object({
  rule: z.string().describe('Id of the rule, as decisions name it.'),
  name: z.string(),
  took: z.number().int().describe('Emails that it took in the last seven days.'),
  usual: z.number().int().describe('Emails that it takes in a week with as much mail, by the eight weeks before.'),
  since: z.iso.date(),
});

export type UnusualRuleRow = z.infer<typeof unusualRule>;
