import { z } from 'zod';
import { RECORD_KINDS } from '../facts/recordKind';
import { conditionSchema } from './condition';

const address = z.string().trim().toLowerCase().max(320);
const id = z.string().regex(/^[a-z0-9][a-z0-9._-]{0,63}$/i, { message: 'is not an id of letters, digits, dots and dashes' });

/** How much contact is needed before a person is created. */
export const AFTERS = ['firstEmail', 'weWrote', 'theyAnswered', 'emails'] as const;
/** Name of a team; case does not count. */
export const teamName = z.string().trim().toLowerCase().min(1, { message: 'is empty' }).max(100);
const existenceOnly = z
  .boolean()
  .default(false)
  .describe('They see that it exists (when, which colleague, which external company), and not what it says.');
/** Who owns a record that is created: the mailbox that has the email, the owner of the account, or a member by address. */
export const recordOwner = z
  .union([z.enum(['mailbox', 'account']), address.regex(/^[^\s@]+@[^\s@]+$/, { message: 'is not an address such as ida@harbour.example' })])
  .describe(
    'mailbox: whoever has the email in a mailbox of theirs. account: the owner of the account, where it has one. Else a member’s address.',
  );

/** In place of a record’s id while none is chosen: no record has it, so that an unfinished rule files nothing and takes nothing. */
export const NO_RECORD_YET = Number.MAX_SAFE_INTEGER;

/** What a rule of each step may do. */
export const ACTIONS = {
  keepOut: z.discriminatedUnion('do', [
    z.strictObject({ do: z.literal('keepOut') }),
    z.strictObject({ do: z.literal('ignore') }).describe('The participants that the condition names do not count.'),
    z.strictObject({ do: z.literal('letThrough') }).describe('Whatever later rules of this step say.'),
  ]),
  takeIn: z.discriminatedUnion('do', [z.strictObject({ do: z.literal('takeIn') }), z.strictObject({ do: z.literal('leaveToOwner') })]),
  match: z.discriminatedUnion('do', [
    z.strictObject({
      do: z.literal('fileUnder'),
      kind: z.enum(RECORD_KINDS),
      id: z.number().int().positive(),
      name: z.string().max(500).default(''),
    }),
    z.strictObject({ do: z.literal('neverDeals') }),
    z.strictObject({ do: z.literal('neverAccounts') }),
    z.strictObject({ do: z.literal('hold') }).describe('A person decides at the sorting desk.'),
  ]),
  create: z.discriminatedUnion('do', [
    z.strictObject({
      do: z.enum(['contact', 'lead']),
      account: z.boolean().default(true).describe('With the account where the domain tells it.'),
      after: z.enum(AFTERS).default('weWrote').describe('How much contact is needed first.'),
      emails: z.number().int().min(1).max(1000).default(3).describe('How many emails with them, for `after: emails`; this one counts.'),
      owner: recordOwner.default('mailbox'),
    }),
    z.strictObject({ do: z.literal('nothing') }),
    z.strictObject({ do: z.literal('ask') }),
  ]),
  share: z.discriminatedUnion('do', [
    z.strictObject({ do: z.literal('owner') }),
    z.strictObject({ do: z.literal('record'), existenceOnly }).describe('Owners of a record it is filed under.'),
    z.strictObject({
      do: z.literal('teams'),
      teams: z.array(teamName).min(1, { message: 'is empty: choose at least one' }).max(100),
      existenceOnly,
    }),
    z.strictObject({ do: z.literal('everyone'), existenceOnly }),
  ]),
} as const;

export const RULE_STEPS = ['keepOut', 'takeIn', 'match', 'create', 'share'] as const;
export type RuleStep = (typeof RULE_STEPS)[number];
export type Action<Step extends RuleStep> = z.infer<(typeof ACTIONS)[Step]>;

/** One rule: a condition, an action, why it exists, on or off, and whom it applies to. */
export interface Rule<A = Action<RuleStep>> {
  id: string;
  name: string;
  note: string;
  on: boolean;
  appliesTo: { mailboxes: string[]; users: string[]; teams?: string[] };
  when: z.infer<typeof conditionSchema>;
  then: A;
}

export function ruleSchema<A extends z.ZodType>(action: A) {
  return z.strictObject({
    id,
    name: z.string().trim().max(120).default(''),
    note: z.string().max(1000).default('').describe('Why it exists.'),
    on: z.boolean().default(true),
    appliesTo: z
      .strictObject({
        mailboxes: z.array(address).max(2000).default([]),
        users: z.array(address).max(2000).default([]),
        teams: z.array(teamName).max(100).optional(),
      })
      .default({ mailboxes: [], users: [] })
      .describe('Mail of one of these mailboxes, members or teams. Nothing named: all mail.'),
    when: conditionSchema,
    then: action,
  });
}
