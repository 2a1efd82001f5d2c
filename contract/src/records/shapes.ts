import { z } from 'zod';
import { direction, id, moment, recordKind } from '../base/values';
import { ownKind } from './kindShapes';

/** What the mail of a record comes to, of the emails that the reader may know of. */
export const mailFigures = z.object({
  emails: z.number().int(),
  emailsIn: z.number().int(),
  emailsOut: z.number().int(),
  conversations: z.number().int(),
  lastEmailAt: moment.nullable(),
  lastMetAt: moment.nullable().describe('When the last event of a calendar that took place began.'),
  lastDirection: direction.nullable(),
  lastBy: z.string().nullable().describe('Who wrote the last email; whose mailbox holds it where the reader may know no more.'),
  unanswered: z.number().int().describe('Conversations of 60 days whose last email came from an external person.'),
  unansweredSince: moment.nullable(),
});

export type MailFiguresShape = z.infer<typeof mailFigures>;

export const recordRow = mailFigures.extend({
  id,
  kind: recordKind,
  name: z.string(),
  detail: z.string(),
  addresses: z.array(z.string()),
  account: z.object({ id, name: z.string() }).nullable(),
  owner: z.string().nullable(),
  ownerId: id.nullable(),
  createdByFulvet: z.boolean(),
  of: z.string().nullable().describe('Of a record of a kind that the workspace defines: the key of the kind.'),
  stage: z.string().nullable().describe('Stage of a deal, status of a lead, type of an account, state of a record of an own kind.'),
  open: z.boolean().nullable(),
  amount: z.number().nullable(),
  currency: z.string().nullable(),
  code: z.string().nullable(),
  own: z.record(z.string(), z.string()).describe('Values of own fields as text.'),
  lastContactAt: moment
    .nullable()
    .describe('The last email or event of a calendar, or the last call, meeting, letter or message that was logged.'),
});

export type RecordRow = z.infer<typeof recordRow>;

export const recordPage = z.object({ records: z.array(recordRow), total: z.number().int() });

export type RecordPage = z.infer<typeof recordPage>;

export const RECORD_SORTS = [
  'name',
  'lastEmail',
  'emails',
  'in',
  'out',
  'unanswered',
  'amount',
  'stage',
  'owner',
  'account',
  'created',
  'detail',
  'code',
  'addresses',
  'quiet',
  'by',
] as const;

export const recordQuery = z.object({
  of: z.string().max(60).optional().describe('Of records of own kinds: the key of a kind; else of all.'),
  text: z.string().max(200).optional(),
  sort: z
    .union([z.enum(RECORD_SORTS), z.string().regex(/^own:[a-z0-9_]{1,60}$/)])
    .default('name')
    .describe('A column, or `own:` and the key of an own field.'),
  descending: z.enum(['yes', 'no']).default('no'),
  origin: z.enum(['fulvet', 'people']).optional(),
  open: z.enum(['yes', 'no']).optional(),
  stage: z.string().max(100).optional(),
  owner: z
    .string()
    .regex(/^(?:nobody|\d{1,15})$/)
    .optional()
    .describe('Id of a member, or nobody for those without an owner.'),
  account: z.coerce.number().int().positive().optional(),
  unanswered: z.enum(['yes']).optional(),
  quiet: z.coerce.number().int().min(1).max(5000).optional().describe('No email for so many days.'),
  own: z.string().max(200).optional().describe('An own field and its value, as `key:value`.'),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

/** A field that the workspace has added to a kind of records. */
export const ownField = z.object({
  key: z.string(),
  label: z.string().trim().min(1, { message: 'needs a name' }).max(60),
  type: z.enum(['text', 'number', 'date', 'choice', 'yesNo']),
  choices: z.array(z.string().trim().min(1).max(100)).max(100).default([]),
  of: z.string().optional().describe('Of records of a kind that the workspace defines: the key of the kind.'),
});

export type OwnField = z.infer<typeof ownField>;

export const dealStage = z.object({
  id: id.nullable().describe('Null for a new one.'),
  name: z.string().trim().min(1, { message: 'needs a name' }).max(100),
  open: z.boolean().describe('Deals at this stage are open.'),
});

export type DealStage = z.infer<typeof dealStage>;

export const recordSetup = z.object({
  ownFields: z.record(recordKind, z.array(ownField)),
  stages: z.array(dealStage),
  kinds: z.array(ownKind).describe('Kinds that the workspace defines, in order.'),
});

export type RecordSetup = z.infer<typeof recordSetup>;

/** Values by field as text, in the form that files have: lists with semicolons, accounts by name, owners by address. */
export const recordValues = z.strictObject({ values: z.record(z.string().max(100), z.string().max(10_000)) });

export const FIELD_INPUTS = ['text', 'list', 'account', 'member', 'number', 'date', 'choice', 'yesNo', 'stage', 'state'] as const;

export const recordFieldValue = z.object({
  key: z.string(),
  label: z.string(),
  input: z.enum(FIELD_INPUTS),
  value: z.string().describe('As text, in the form in which it is sent to change it.'),
  shown: z.string().describe('As people read it.'),
  choices: z.array(z.string()),
  link: z.object({ kind: recordKind, id }).nullable(),
  mono: z.boolean(),
});

export type RecordFieldValue = z.infer<typeof recordFieldValue>;

const beside = z.object({ kind: recordKind, id, name: z.string(), detail: z.string() });

export const recordDetail = mailFigures.extend({
  kind: recordKind,
  id,
  name: z.string(),
  fields: z.array(recordFieldValue),
  of: z.string().nullable().describe('Of a record of a kind that the workspace defines: the key of the kind.'),
  people: z
    .array(beside.extend({ role: z.string() }))
    .describe('Of a deal, or a record of an own kind: who is on it; of a deal also what they are to it.'),
  related: z.array(z.object({ label: z.string(), records: z.array(beside) })),
  origin: z.object({ emailId: id, at: moment.nullable(), rule: z.string(), ruleText: z.string().nullable() }).nullable(),
  nameConfidence: z.number(),
  filingAddress: z.string().nullable().describe('Mail sent or forwarded there by a teammate is filed here.'),
});

export type RecordDetail = z.infer<typeof recordDetail>;

export const recordChange = z.object({
  id,
  at: moment,
  by: z.string().nullable(),
  field: z.string(),
  before: z.string(),
  after: z.string(),
});

export type RecordChange = z.infer<typeof recordChange>;

export const recordView = z.object({
  id,
  kind: recordKind,
  name: z.string(),
  query: z.string(),
  shared: z.boolean(),
  mine: z.boolean(),
  by: z.string(),
});

export type RecordView = z.infer<typeof recordView>;

/** An external person who takes part in emails, as a record might begin. */
export const outsider = z.object({
  address: z.string(),
  name: z.string(),
  nameConfidence: z.number().describe('1 as written; less when guessed; 0 unknown.'),
  title: z.string(),
  phones: z.array(z.string()),
  company: z.string().describe('As the signature or the domain tells it; empty for public providers.'),
  domain: z.string(),
  emails: z.number().int(),
  record: z.object({ kind: recordKind, id, name: z.string() }).nullable().describe('Who it is already.'),
  accounts: z.array(z.object({ id, name: z.string() })).describe('Whose domain it is; several may share it.'),
  role: z.boolean().describe('It is the address of a function, not of a person.'),
  machine: z.boolean().describe('Machines write from there only.'),
  keptOut: z.boolean().describe('An entry of the Keep out step keeps them out.'),
});

export type Outsider = z.infer<typeof outsider>;

export const recordsImportRequest = z.strictObject({
  format: z.enum(['csv', 'vcard']).default('csv'),
  text: z.string().max(60_000_000),
  of: z.string().max(60).optional().describe('Of records of own kinds: the key of the kind of lines that name none.'),
  mapping: z
    .record(z.string(), z.string())
    .optional()
    .describe('Header of the file to field of the record; empty string leaves a column out.'),
});

export type RecordsImportRequest = z.input<typeof recordsImportRequest>;

export const recordsPreview = z.object({
  columns: z.array(z.object({ header: z.string(), field: z.string().nullable() })),
  fields: z.array(z.object({ name: z.string(), required: z.boolean(), hint: z.string() })),
  sample: z.array(
    z.object({ line: z.number().int(), action: z.enum(['create', 'update', 'same']), values: z.record(z.string(), z.string()) }),
  ),
  counts: z.object({ create: z.number().int(), update: z.number().int(), same: z.number().int(), bad: z.number().int() }),
  bad: z.array(z.object({ line: z.number().int(), reason: z.string() })),
  warnings: z.array(z.object({ line: z.number().int(), reason: z.string() })),
  done: z.boolean(),
});

export type RecordsPreview = z.infer<typeof recordsPreview>;
