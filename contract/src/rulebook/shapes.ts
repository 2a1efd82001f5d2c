import { z } from 'zod';
import { id, moment } from '../base/values';

export const addressList = z.object({
  id: z.string(),
  name: z.string(),
  note: z.string(),
  shipped: z.boolean().describe('Ships with content, and every rulebook goes by it.'),
  entries: z.number().int(),
  took: z.number().int().describe('Emails of 30 days with someone on the list.'),
  usedBy: z.array(z.string()).describe('Names of the rules, in force or in the draft, that refer to it.'),
});

export type AddressListRow = z.infer<typeof addressList>;

export const addressListEntry = z.object({
  id,
  kind: z.enum(['domain', 'address', 'local']),
  value: z.string(),
  exactly: z.boolean(),
  note: z.string(),
  by: z.string().nullable(),
  at: moment,
  until: z.string().nullable(),
  took: z.number().int().describe('Emails of 30 days.'),
  coveredBy: z.string().nullable().describe('Another entry of the list that covers this one.'),
});

export type AddressListEntryRow = z.infer<typeof addressListEntry>;

export const pasted = z.object({
  added: z.number().int(),
  known: z.number().int(),
  unread: z.array(z.string()).describe('What could not be read as a domain or an address.'),
});

export type Pasted = z.infer<typeof pasted>;

export const draftState = z.object({
  document: z.unknown(),
  baseVersion: z.number().int(),
  liveVersion: z.number().int(),
  revision: z.number().int().describe('0 while nothing is edited: the draft is what is in force.'),
  differences: z.array(z.string()).describe('What putting it live would change, in sentences.'),
  at: moment.nullable(),
  by: z.string().nullable(),
});

export type DraftState = z.infer<typeof draftState>;

export const ruleUse = z.object({ rule: z.string(), took: z.number().int(), lastAt: moment.nullable() });

export type RuleUse = z.infer<typeof ruleUse>;

export const finding = z.object({
  code: z.string(),
  step: z.string().nullable(),
  rule: z.string().nullable(),
  message: z.string(),
  emails: z.number().int().nullable().describe('How many past emails it concerns, where that can be said.'),
  repair: z
    .object({ label: z.string(), document: z.unknown() })
    .nullable()
    .describe('The draft after the one sure repair, where there is one.'),
});

export type Finding = z.infer<typeof finding>;

export const rulebookState = z.object({
  version: z.number().int(),
  document: z.unknown(),
  summary: z.string(),
  at: moment,
  by: z.string().nullable(),
});

export type RulebookState = z.infer<typeof rulebookState>;

export const rulebookVersion = rulebookState.omit({ document: true }).extend({
  pilotMailboxes: z.array(z.string()).nullable().describe('It was or is in force for the mail of these mailboxes only.'),
  inForce: z.boolean(),
});

export type RulebookVersion = z.infer<typeof rulebookVersion>;

/** What rules did to some mail, in numbers. */
const pilotFigures = z.object({
  emails: z.number().int(),
  outcomes: z.record(z.string(), z.number().int()),
  everyone: z.number().int().describe('Emails that everyone sees.'),
  created: z.number().int().describe('Records created from them.'),
});

export const pilot = z.object({
  version: z.number().int(),
  mailboxes: z.array(z.string()),
  summary: z.string(),
  at: moment,
  by: z.string().nullable(),
  from: moment.describe('Mail from this time on is compared.'),
  group: pilotFigures.describe('Mail that the pilot’s rules decided.'),
  others: pilotFigures.describe('Other mail of the same time.'),
  behind: z.boolean().describe('Another version was put in force for everyone since.'),
});

export type Pilot = z.infer<typeof pilot>;
