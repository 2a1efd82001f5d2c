import { z } from 'zod';
import { id, moment, recordKind, shareLevel } from '../base/values';
import { emailRow } from '../emails/shapes';

const member = z.object({ id, name: z.string() });

export const choiceScope = z.enum(['email', 'conversation', 'person', 'domain']);

export type ChoiceScope = z.infer<typeof choiceScope>;

/** What a member says of who sees mail in their own mailboxes. */
export const sharingChoiceRequest = z
  .strictObject({
    does: z.enum(['seal', 'share']).describe('seal: no one else learns that it exists. share: at the level.'),
    scope: choiceScope,
    emailId: id.optional().describe('The email, or one of the conversation.'),
    value: z.string().trim().min(3).max(320).optional().describe('An address or a domain.'),
    level: shareLevel.optional(),
    teams: z.array(z.string().trim().min(1).max(100)).max(50).default([]),
    existenceOnly: z.boolean().default(false),
    always: z.boolean().default(true).describe('false: of mail up to now only.'),
  })
  .refine((item) => (item.scope === 'email' || item.scope === 'conversation') === (item.emailId !== undefined), {
    message: 'names the email where it is about one or its conversation, and nowhere else',
    path: ['emailId'],
  })
  .refine((item) => (item.scope === 'person' || item.scope === 'domain') === (item.value !== undefined), {
    message: 'names the address or domain where it is about one, and nowhere else',
    path: ['value'],
  })
  .refine((item) => (item.does === 'share') === (item.level !== undefined), { message: 'says who sees it, for a share', path: ['level'] })
  .refine((item) => item.level !== 'teams' || item.teams.length > 0, { message: 'names at least one team', path: ['teams'] });

export type SharingChoiceRequest = z.input<typeof sharingChoiceRequest>;

export const sharingChoice = z.object({
  id,
  does: z.enum(['seal', 'share']),
  scope: choiceScope,
  emailId: id.nullable(),
  value: z.string().nullable(),
  level: shareLevel.nullable(),
  teams: z.array(z.string()),
  existenceOnly: z.boolean(),
  until: moment.nullable(),
  at: moment,
  subject: z.string().nullable().describe('Of the email that it is about.'),
});

export type SharingChoice = z.infer<typeof sharingChoice>;

export const accessScope = z.enum(['email', 'conversation', 'record']);

export type AccessScope = z.infer<typeof accessScope>;

const about = {
  scope: accessScope,
  emailId: id.optional().describe('The email, or one of the conversation.'),
  record: z.strictObject({ kind: recordKind, id }).optional(),
};

const isAbout = (item: { scope: AccessScope; emailId?: number | undefined; record?: unknown }): boolean =>
  (item.scope === 'record') === (item.record !== undefined) && (item.scope !== 'record') === (item.emailId !== undefined);

const ABOUT_MESSAGE = { message: 'names the record where it is about one, else the email', path: ['scope'] };

export const accessAsk = z.strictObject({ ...about, note: z.string().trim().max(500).default('') }).refine(isAbout, ABOUT_MESSAGE);

export type AccessAsk = z.input<typeof accessAsk>;

export const grantRequest = z.strictObject({ ...about, to: z.array(id).min(1).max(100) }).refine(isAbout, ABOUT_MESSAGE);

export type GrantRequest = z.input<typeof grantRequest>;

/** What is asked for or shared, as its owner is to know it. */
const subject = {
  scope: accessScope,
  emailId: id.nullable(),
  record: z.object({ kind: recordKind, id, name: z.string() }).nullable(),
  subject: z.string().nullable().describe('Of the email, for who may read it.'),
  sentAt: moment.nullable(),
};

export const accessRequest = z.object({
  id,
  ...subject,
  askedBy: member,
  owner: member,
  note: z.string(),
  at: moment,
  state: z.enum(['open', 'shared', 'declined', 'withdrawn']),
  answeredAt: moment.nullable(),
  records: z
    .array(z.object({ kind: recordKind, id, name: z.string() }))
    .describe('Under which the email stands: what an answer can reach.'),
  emails: z.number().int().describe('Emails that “yes” would open to the colleague.'),
});

export type AccessRequest = z.infer<typeof accessRequest>;

export const grant = z.object({ id, ...subject, by: member, to: member, at: moment, emails: z.number().int() });

export type Grant = z.infer<typeof grant>;

/** One reason why someone sees an email. */
export const eye = z.object({
  user: member.extend({ role: z.string() }),
  reads: z.boolean().describe('false: sees that it exists only.'),
  why: z.array(z.string()),
});

export type Eye = z.infer<typeof eye>;

export const eyes = z.object({
  eyes: z.array(eye),
  nobody: z.number().int().describe('Members who do not learn of it.'),
  sealed: z.boolean(),
});

export type Eyes = z.infer<typeof eyes>;

export const memberSight = z.object({
  member: member,
  mailbox: z.string(),
  reads: z.number().int(),
  exists: z.number().int().describe('Known to exist only.'),
  nothing: z.number().int(),
  emails: z.array(z.object({ email: emailRow, reads: z.boolean(), why: z.array(z.string()) })).describe('The newest that they see.'),
});

export type MemberSight = z.infer<typeof memberSight>;

export const emergencyRequest = z.strictObject({
  ownerId: id,
  reason: z.string().trim().min(10, { message: 'says why, in at least ten characters; the owner reads it' }).max(1000),
  hours: z.number().int().min(1).max(72),
});

export type EmergencyRequest = z.input<typeof emergencyRequest>;

export const emergency = z.object({
  id,
  owner: member,
  askedBy: member,
  reason: z.string(),
  hours: z.number().int(),
  askedAt: moment,
  confirmedBy: member.nullable(),
  until: moment.nullable(),
  endedAt: moment.nullable(),
  state: z.enum(['asked', 'open', 'over']),
});

export type Emergency = z.infer<typeof emergency>;
