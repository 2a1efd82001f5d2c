import { z } from 'zod';
import { conditionSchema } from './condition';

const address = z.string().trim().toLowerCase().max(320);
const id = z.string().regex(/^[a-z0-9][a-z0-9._-]{0,63}$/i, { message: 'is not an id of letters, digits, dots and dashes' });

/** What a rule of each stop may do. */
export const ACTIONS = {
  keepOut: z.discriminatedUnion('do', [
    z.strictObject({ do: z.literal('keepOut') }),
    z.strictObject({ do: z.literal('disregard') }).describe('The participants that the condition names do not count.'),
    z.strictObject({ do: z.literal('letThrough') }).describe('Whatever later rules of this stop say.'),
  ]),
  takeIn: z.discriminatedUnion('do', [z.strictObject({ do: z.literal('track') }), z.strictObject({ do: z.literal('leaveLoose') })]),
  match: z.discriminatedUnion('do', [
    z.strictObject({
      do: z.literal('fileUnder'),
      kind: z.enum(['account', 'contact', 'lead', 'deal']),
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
      after: z.enum(['firstEmail', 'weWrote', 'theyAnswered']).default('weWrote'),
    }),
    z.strictObject({ do: z.literal('nothing') }),
    z.strictObject({ do: z.literal('ask') }),
  ]),
  share: z.discriminatedUnion('do', [z.strictObject({ do: z.literal('owner') }), z.strictObject({ do: z.literal('everyone') })]),
} as const;

export const RULE_STOPS = ['keepOut', 'takeIn', 'match', 'create', 'share'] as const;
export type RuleStop = (typeof RULE_STOPS)[number];
export type Action<Stop extends RuleStop> = z.infer<(typeof ACTIONS)[Stop]>;

/** One rule: a condition, an action, why it exists, on or off, and whom it applies to. */
export interface Rule<A = Action<RuleStop>> {
  id: string;
  name: string;
  note: string;
  on: boolean;
  appliesTo: { mailboxes: string[]; users: string[] };
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
      .strictObject({ mailboxes: z.array(address).max(2000).default([]), users: z.array(address).max(2000).default([]) })
      .default({ mailboxes: [], users: [] })
      .describe('Mail that lies in one of these mailboxes or is of one of these members; both empty: all mail.'),
    when: conditionSchema,
    then: action,
  });
}
