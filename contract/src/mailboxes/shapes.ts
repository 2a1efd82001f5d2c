import { CHECK_STEPS, FOLDER_ROLES, RECORD_KINDS } from '@fulvet/core';
import { z } from 'zod';
import { email, id, moment, outcome, recordKind } from '../base/values';

/** What comes in from a mailbox: what the rulebook says, or less by its owner's word. */
const takeInChoice = z.enum(['rules', 'known', 'byHand']);

export const mailboxKind = z.enum(['imported', 'person', 'shared', 'filing']);

export type MailboxKind = z.infer<typeof mailboxKind>;

export const mailboxState = z.enum(['imported', 'connecting', 'running', 'paused', 'stopped', 'closed']);

/** How a mailbox is doing, in words. */
export const mailboxHealth = z.object({
  level: z.enum(['well', 'busy', 'trouble', 'stopped', 'resting']),
  state: z.string(),
  problem: z
    .object({
      code: z.string(),
      title: z.string(),
      since: moment,
      means: z.string().describe('What it means for the histories.'),
      doing: z.string().describe('What Fulvet is doing about it.'),
      todo: z.string().describe('What the person has to do.'),
      said: z.string().describe('What the server said, word by word.'),
    })
    .nullable(),
});

export type MailboxHealth = z.infer<typeof mailboxHealth>;

export const mailbox = z.object({
  id,
  address: z.string(),
  owner: z.string(),
  ownerId: id,
  kind: mailboxKind,
  state: mailboxState,
  emails: z.number().int(),
  newest: moment.nullable(),
  lookedAfter: z.boolean().describe('The reader may change it.'),
  health: mailboxHealth.nullable().describe('Null for those who do not look after it.'),
  lastContactAt: moment.nullable(),
  delayMs: z.number().int().nullable().describe('Last measured time from arrival at the server until filed.'),
  backlog: z.number().int().describe('Emails that are still to be read.'),
  perDay: z
    .array(z.number().int())
    .describe(
      'Emails by day of their sending, 30 days, the last one today; empty for those who neither look after the mailbox nor use it, whose number of emails is 0 then.',
    ),
});

export type Mailbox = z.infer<typeof mailbox>;

export const endpoint = z.strictObject({
  host: z
    .string()
    .trim()
    .toLowerCase()
    .min(1, { message: 'is missing: the name of the server, such as mail.harbour.example' })
    .max(253)
    .regex(/^[a-z0-9.:_-]+$/, { message: 'is not the name of a server, such as mail.harbour.example' }),
  port: z.number().int().min(1).max(65_535),
  security: z.enum(['tls', 'starttls']),
});

export type MailEndpoint = z.infer<typeof endpoint>;

export const mailboxCheck = z.object({
  step: z.enum(CHECK_STEPS),
  title: z.string(),
  state: z.enum(['waiting', 'running', 'passed', 'failed']),
  message: z.string(),
  remedy: z.string(),
  said: z.string(),
  code: z.string().nullable(),
  ms: z.number().int().nullable(),
});

export type MailboxCheck = z.infer<typeof mailboxCheck>;

/** What moving an email into a folder means. */
export const folderMeaning = z.union([
  z.strictObject({ target: z.literal('rules') }),
  z.strictObject({ target: recordKind, recordId: id }),
]);

export const mailboxFolder = z.object({
  id,
  path: z.string(),
  role: z.enum(FOLDER_ROLES),
  followed: z.boolean(),
  pending: z.number().int(),
  total: z.number().int(),
  fileAs: z.object({ target: z.enum(['rules', ...RECORD_KINDS]), recordId: id.nullable(), recordName: z.string() }).nullable(),
});

export type MailboxFolder = z.infer<typeof mailboxFolder>;

export const mailboxDetail = mailbox.extend({
  aliases: z.array(z.string()),
  users: z.array(z.object({ id, name: z.string() })),
  connection: z
    .object({
      preset: z.string(),
      imap: endpoint,
      smtp: endpoint,
      signIn: z.enum(['password', 'redirect']),
      userName: z.string(),
      hasSecret: z.boolean(),
    })
    .nullable(),
  checks: z.array(mailboxCheck),
  checked: z.boolean().describe('Every check passed.'),
  folders: z.array(mailboxFolder),
  direction: z.enum(['both', 'sent', 'received']),
  readSince: moment.nullable(),
  share: z.enum(['owner', 'rules']),
  takeIn: takeInChoice,
  markFiled: z.boolean(),
  usersSend: z.boolean().describe('Of a shared address: those who use it may send from it, not its owner alone.'),
  measures: z.boolean().describe('Openings of emails that are sent from it may be counted, where the workspace allows it.'),
  startedAt: moment.nullable(),
});

export type MailboxDetail = z.infer<typeof mailboxDetail>;

export const newMailbox = z.strictObject({
  address: email,
  kind: z.enum(['person', 'shared', 'filing']).default('person'),
  ownerId: id.optional().describe('A member; without it the caller.'),
  aliases: z.array(email).max(50).default([]),
  userIds: z.array(id).max(500).default([]).describe('Who may use a shared address.'),
});

export type NewMailbox = z.input<typeof newMailbox>;

export const foundServers = z.object({
  by: z.enum(['service records', 'preset', 'nothing']),
  preset: z.string(),
  imap: endpoint.nullable(),
  smtp: endpoint.nullable(),
});

export type FoundServers = z.infer<typeof foundServers>;

export const connectionRequest = z.strictObject({
  imap: endpoint,
  smtp: endpoint,
  userName: z.string().trim().min(1, { message: 'is missing: the name to sign in with, mostly the address' }).max(320),
  signIn: z.enum(['password', 'redirect']),
  password: z.string().min(1).max(1000).optional().describe('Left out, the stored one is kept, as long as the server stays the same.'),
});

export type ConnectionRequest = z.input<typeof connectionRequest>;

export const providerPreset = z.object({
  id: z.string(),
  name: z.string(),
  hosts: z.array(z.string()),
  signIn: z.array(z.enum(['password', 'redirect'])),
});

export type ProviderPreset = z.infer<typeof providerPreset>;

export const lookBackChoice = z.object({
  days: z.number().int().nullable().describe('Null for everything.'),
  emails: z.number().int(),
  seconds: z.number().int().describe('Estimate, by how fast the newest emails came.'),
});

export type LookBackChoice = z.infer<typeof lookBackChoice>;

export const mailboxSettings = z.strictObject({
  direction: z.enum(['both', 'sent', 'received']).optional(),
  readSinceDays: z.number().int().min(0).max(36_500).nullable().optional().describe('Null for everything.'),
  share: z.enum(['owner', 'rules']).optional(),
  takeIn: takeInChoice.optional(),
  markFiled: z.boolean().optional(),
  usersSend: z.boolean().optional(),
  measures: z.boolean().optional(),
  aliases: z.array(email).max(50).optional(),
  userIds: z.array(id).max(500).optional(),
  folders: z
    .array(z.strictObject({ id, followed: z.boolean().optional(), fileAs: folderMeaning.nullable().optional() }))
    .max(2000)
    .optional(),
});

export type MailboxSettings = z.input<typeof mailboxSettings>;

export const mailboxEvent = z.object({
  id,
  at: moment,
  level: z.enum(['note', 'problem', 'solved']),
  message: z.string(),
  said: z.string(),
});

export type MailboxEvent = z.infer<typeof mailboxEvent>;

export const bulkRow = z.object({
  line: z.number().int(),
  address: z.string(),
  mailboxId: id.nullable(),
  problem: z.string().nullable(),
});

export type BulkRow = z.infer<typeof bulkRow>;

export const importRun = z.object({
  id,
  mailbox: z.string(),
  files: z.array(z.string()),
  state: z.enum(['open', 'queued', 'running', 'done', 'cancelled', 'failed']),
  phase: z.enum(['reading', 'deciding', 'done']),
  totalBytes: z.number().int(),
  readBytes: z.number().int(),
  counts: z.object({
    new: z.number().int(),
    otherSighting: z.number().int(),
    known: z.number().int(),
    unreadable: z.number().int(),
    withProblems: z.number().int(),
    decided: z.number().int(),
    toDecide: z.number().int(),
  }),
  message: z.string(),
  createdAt: moment,
  startedAt: moment.nullable(),
  finishedAt: moment.nullable(),
  undo: id.nullable().describe('The step by which your import is taken back.'),
});

export type ImportRun = z.infer<typeof importRun>;

export const importItem = z.object({
  position: z.number().int(),
  file: z.string(),
  result: z.enum(['new', 'other sighting', 'known', 'unreadable']),
  emailId: id.nullable(),
  outcome: outcome.nullable(),
  problems: z.array(z.object({ code: z.string(), message: z.string() })),
});

export type ImportItem = z.infer<typeof importItem>;

/** An address of a mailbox, or another address of it, that is not under one of our own domains. */
export const teamAddress = z.object({
  address: z.string(),
  mailbox: z.string(),
  owner: z.string(),
  isOurs: z.boolean().describe('An administrator confirmed that it belongs to us.'),
  emails: z.number().int().describe('Stored emails in which it takes part.'),
  records: z.number().int().describe('Contacts and leads who have it.'),
});
export type TeamAddress = z.infer<typeof teamAddress>;
