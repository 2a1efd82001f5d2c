import { z } from 'zod';
import { ROLES } from '../base/route';
import { email, id, moment } from '../base/values';

export const user = z.object({ id, email: z.string(), name: z.string(), role: z.enum(ROLES) });

export type User = z.infer<typeof user>;

export const session = z.object({
  user: user.nullable(),
  setUp: z.boolean(),
  workspace: z.string(),
  csrf: z.string(),
  needs: z
    .enum(['code', 'second factor'])
    .nullable()
    .describe(
      'code: the password was right, the code of the second factor is asked for. second factor: one has to be set up before anything else.',
    ),
  provider: z.string().nullable().describe('Label of the button that leads to the identity provider.'),
});

export type Session = z.infer<typeof session>;

export const team = z.object({ id, name: z.string(), members: z.array(z.object({ id, name: z.string() })) });

export type Team = z.infer<typeof team>;

export const setupRequest = z.strictObject({
  workspace: z.string().trim().min(1).max(100).default('Our team'),
  admin: z.strictObject({
    email,
    name: z.string().trim().min(1).max(100),
    password: z.string().min(10, { message: 'must have at least 10 characters' }).max(200),
  }),
  ownDomains: z.array(z.string().trim().min(1).max(253)).min(1, { message: 'needs at least one domain' }).max(100),
});

export const tokenScope = z
  .enum(['read', 'write', 'admin', 'send'])
  .describe('read: get. write: change too. admin: what administrators alone may, too. send: send emails in the name of the member.');

export type TokenScope = z.infer<typeof tokenScope>;

export const accessToken = z.object({
  id,
  name: z.string(),
  createdAt: moment,
  lastUsedAt: moment.nullable(),
  scopes: z.array(tokenScope),
  expiresAt: moment.nullable(),
});

export type AccessToken = z.infer<typeof accessToken>;

export const teamMember = z.object({
  id,
  email: z.string(),
  name: z.string(),
  role: z.enum(ROLES),
  mailboxes: z.array(z.string()),
  hasPassword: z.boolean(),
  active: z.boolean(),
  secondFactor: z.boolean(),
});

export type TeamMember = z.infer<typeof teamMember>;

/** One place where someone is signed in. */
export const signedInSession = z.object({
  id: z.string(),
  program: z.string().describe('The browser, as it called itself.'),
  since: moment.nullable(),
  lastSeenAt: moment,
  current: z.boolean(),
});

export type SignedInSession = z.infer<typeof signedInSession>;

export const invitation = z.object({
  id,
  email: z.string(),
  name: z.string(),
  role: z.enum(ROLES),
  by: z.string(),
  at: moment,
  expiresAt: moment,
  state: z.enum(['open', 'accepted', 'withdrawn', 'expired']),
});

export type Invitation = z.infer<typeof invitation>;

/** What becomes of a member who leaves. */
export const deactivation = z.strictObject({
  mailboxesTo: id.nullable().default(null).describe('Who gets their mailboxes; null: no one, the mail stays with no one new.'),
  recordsTo: id.nullable().default(null).describe('Who gets their records; null: no one.'),
});

export const deactivated = z.object({
  mailboxes: z.number().int(),
  emails: z.number().int(),
  records: z.number().int(),
  sessions: z.number().int(),
  tokens: z.number().int(),
});

export type Deactivated = z.infer<typeof deactivated>;
