import { z } from 'zod';
import { cursor, id, moment, shareLevel } from '../base/values';

export const recordReach = z
  .enum(['all', 'team', 'owner'])
  .describe('Whose records a member sees: everyone’s, those of the teams they are in, or their own.');

export type RecordReach = z.infer<typeof recordReach>;

export const identityProvider = z.object({ issuer: z.url(), clientId: z.string(), label: z.string() });

const writingRight = z.strictObject({
  role: z.enum(['rep', 'manager', 'admin']).describe('The least role that has it.'),
  teamIds: z.array(id).max(100).describe('Members of one of these teams have it, and administrators; empty: of any team or none.'),
});

export const writingRights = z.strictObject({
  send: writingRight.describe('Sending emails from here.'),
  share: writingRight.describe('Sharing templates and documents with everyone and with one’s teams.'),
  bulk: writingRight.default({ role: 'manager', teamIds: [] }).describe('Sending an email to many people at once.'),
  measure: writingRight.default({ role: 'manager', teamIds: [] }).describe('Counting whether emails that one sends are opened.'),
});

export const automaticSending = z.strictObject({
  holidays: z
    .array(z.strictObject({ day: z.iso.date(), name: z.string().trim().max(80).default('') }))
    .max(1000)
    .describe('Days on which no one works: they count in no wait, and nothing that was set for the next working morning is sent.'),
  perDay: z.number().int().min(1).max(2000).describe('Most emails that a mailbox sends by itself in a day.'),
  pauseSeconds: z
    .number()
    .int()
    .min(0)
    .max(3600)
    .default(15)
    .describe('A mailbox rests so long between two emails that it sends by itself: providers take few at once.'),
  isHeld: z.boolean().describe('Nothing is sent by itself. What was due meanwhile is shown to its member before it is sent.'),
});

const never = z
  .string()
  .trim()
  .toLowerCase()
  .max(254)
  .regex(/^(?:[^\s@]+@)?[^\s@.]+(?:\.[^\s@.]+)+$/, 'must be an address or a domain, such as orla@skerry.example or skerry.example');

const addressRange = z.union([z.ipv4(), z.ipv6(), z.cidrv4(), z.cidrv6()], 'must be an IP address or a range such as 192.0.2.0/24');

export const measuringChange = z.strictObject({
  isOn: z.boolean().describe('Whether openings of emails may be counted at all.'),
  notice: z
    .string()
    .trim()
    .max(2000)
    .describe('What recipients are told, below each email whose openings are counted. Needed where it is on.'),
  keepDays: z.number().int().min(1).max(730).describe('After so many days what was counted is forgotten.'),
  ownRanges: z
    .array(addressRange)
    .max(100)
    .default([])
    .describe('IP addresses and ranges of the company: what is opened from there is not counted.'),
  never: z.array(never).max(5000).default([]).describe('Addresses and domains of people whose openings are never counted.'),
});

export const measuring = measuringChange.extend({
  decided: z
    .object({ name: z.string(), at: moment })
    .nullable()
    .describe('Who switched it on or changed the notice last; null: it was never on.'),
});

export type Measuring = z.infer<typeof measuring>;

export type AutomaticSending = z.infer<typeof automaticSending>;

export type WritingRights = z.infer<typeof writingRights>;

export const workspace = z.object({
  name: z.string(),
  recordReach,
  widestShare: shareLevel.describe('How wide owners of mailboxes may share by hand.'),
  secondFactorNeeded: z.boolean(),
  identityProvider: identityProvider.nullable(),
  writingRights,
  automatic: automaticSending.describe('Of emails that are sent by themselves, as in a series.'),
  measuring: measuring.describe('Counting whether emails are opened. Off by default.'),
  linkAddress: z.string().nullable().describe('With what links to documents begin; null: none are made.'),
});

export type Workspace = z.infer<typeof workspace>;

export const sample = z.object({
  state: z.enum(['possible', 'loading', 'loaded', 'impossible']).describe('impossible: there are records or mail that are no sample.'),
  step: id.nullable().describe('The step that removes it again, once it is there.'),
});

export type Sample = z.infer<typeof sample>;

export const workspaceChange = z.strictObject({
  name: z.string().trim().min(1).max(100).optional(),
  recordReach: recordReach.optional(),
  widestShare: shareLevel.optional(),
  secondFactorNeeded: z.boolean().optional(),
  writingRights: writingRights.optional(),
  automatic: automaticSending.optional(),
  measuring: measuringChange.optional(),
  identityProvider: z
    .strictObject({
      issuer: z.url({ protocol: /^https?$/, message: 'must be an address such as https://id.quillmere.example' }),
      clientId: z.string().trim().min(1).max(200),
      label: z.string().trim().min(1).max(60),
      clientSecret: z.string().min(1).max(500).optional().describe('Left out: the one that is kept.'),
    })
    .nullable()
    .optional(),
});

export type WorkspaceChange = z.input<typeof workspaceChange>;

export const auditEntry = z.object({
  at: moment,
  actor: z.string(),
  kind: z.string(),
  about: z.string(),
  emailId: id.nullable(),
  subject: z.string().nullable().describe('The member whom it concerns.'),
  hash: z.string(),
});

export type AuditEntry = z.infer<typeof auditEntry>;

export const auditPage = z.object({ entries: z.array(auditEntry), next: z.string().nullable(), kinds: z.array(z.string()) });

export type AuditPage = z.infer<typeof auditPage>;

export const auditQuery = z.object({
  kind: z.string().max(60).optional(),
  text: z.string().max(200).optional(),
  member: z.coerce.number().int().positive().optional().describe('Who did it, or whom it concerns.'),
  from: z.iso.date().optional(),
  until: z.iso.date().optional(),
  after: cursor.optional().describe('Cursor of the page before.'),
  limit: z.coerce.number().int().min(1).max(500).default(100),
});

export type AuditQuery = z.input<typeof auditQuery>;

export const auditCheck = z.object({
  intact: z.boolean(),
  entries: z.number().int(),
  chains: z.array(z.object({ chain: z.string(), entries: z.number().int(), head: z.string() })),
  broken: z.array(z.string()).describe('What does not fit, in words.'),
});

export type AuditCheck = z.infer<typeof auditCheck>;
