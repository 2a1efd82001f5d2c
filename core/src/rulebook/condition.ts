import { z } from 'zod';
import { RECORD_KINDS } from '../facts/recordKind';
import { domainToAscii } from '../domain/domain';
import { MAIL_CLASSES } from '../emails/mailClass';
import { SENDER_CHECKS } from '../emails/senderCheck';
import { SENSITIVITIES } from '../emails/sensitivity';

const words = z.string().trim().min(1, { message: 'is empty' }).max(500);
const domain = words
  .transform((text) => domainToAscii(text.replace(/^@/, '')))
  .refine((text) => text.includes('.') || text.startsWith('['), { message: 'is not a domain such as harbour.example' });
const address = words.regex(/^[^\s@]+@[^\s@]+$/, { message: 'is not an address such as ida@harbour.example' });
const some = <T extends z.ZodType>(of: T) => z.array(of).min(1, { message: 'is empty: choose at least one' }).max(500);

/** A pattern in the syntax of RE2, matched in linear time; case does not count. */
export const patternText = words;

/** How a text is looked through. */
export const textTest = z.union([
  z.strictObject({ contains: some(words).describe('Any of these words or phrases; case does not count.') }),
  z.strictObject({ pattern: patternText }),
]);
export type TextTest = z.infer<typeof textTest>;

/** What may be asked of one participant. */
export const participantTest = z.discriminatedUnion('is', [
  z.strictObject({ is: z.literal('address'), value: address }),
  z.strictObject({ is: z.literal('domain'), value: domain, exactly: z.boolean().default(false) }),
  z.strictObject({ is: z.literal('inList'), list: words.describe('Id of an address list.') }),
  z.strictObject({ is: z.literal('matches'), pattern: patternText.describe('Against the address.') }),
  z.strictObject({ is: z.literal('contact') }),
  z.strictObject({ is: z.literal('lead') }),
  z.strictObject({ is: z.literal('account') }).describe('The domain, or the person, belongs to an account.'),
  z.strictObject({ is: z.literal('onOpenDeal') }),
  z.strictObject({ is: z.literal('unknown') }).describe('In no record.'),
  z.strictObject({ is: z.literal('roleAddress') }).describe('Names a function, such as info@ or invoices@.'),
  z.strictObject({ is: z.literal('publicProvider') }),
]);
export type ParticipantTest = z.infer<typeof participantTest>;

export const WHICH = ['sender', 'recipient', 'any', 'every', 'this'] as const;

/** What may be asked of a record that the email concerns. */
export const recordTest = z.discriminatedUnion('field', [
  z.strictObject({ field: z.literal('accountType'), in: some(words) }),
  z.strictObject({ field: z.literal('accountOwner'), in: some(address) }),
  z.strictObject({ field: z.literal('dealStage'), in: some(words) }),
  z.strictObject({ field: z.literal('dealOwner'), in: some(address) }),
  z.strictObject({ field: z.literal('dealOpen'), is: z.boolean() }),
  z.strictObject({ field: z.literal('dealAmount'), atLeast: z.number().min(0).max(1e12) }),
  z.strictObject({
    field: z.literal('ownOpen'),
    kind: words.describe('Key of a kind of records that the workspace defines.'),
    is: z.boolean(),
  }),
  z.strictObject({
    field: z.literal('own'),
    of: z.enum(RECORD_KINDS),
    key: words.describe('Key of an own field of these records.'),
    test: z.union([
      z.strictObject({ in: some(words).describe('Case does not count; yes or no for a field of that type.') }),
      z.strictObject({ atLeast: z.number() }),
      z.strictObject({ onOrAfter: z.iso.date() }),
      z.strictObject({ onOrBefore: z.iso.date() }),
    ]),
  }),
]);
export type RecordTest = z.infer<typeof recordTest>;

const leaf = z.discriminatedUnion('fact', [
  z.strictObject({
    fact: z.literal('participant'),
    which: z
      .enum(WHICH)
      .describe('sender, recipient, any or every external participant; this: the one that a rule of Keep out or Create is asked about.'),
    test: participantTest,
  }),
  z.strictObject({ fact: z.literal('direction'), in: some(z.enum(['sent', 'received', 'internal'])) }),
  z.strictObject({ fact: z.literal('mailClass'), in: some(z.enum(MAIL_CLASSES)) }),
  z.strictObject({ fact: z.literal('subject'), test: textTest }),
  z.strictObject({ fact: z.literal('body'), test: textTest }),
  z.strictObject({
    fact: z.literal('attachment'),
    test: z.union([z.strictObject({ any: z.literal(true) }), z.strictObject({ name: textTest })]),
  }),
  z.strictObject({ fact: z.literal('size'), atLeast: z.number().int().min(0).max(1e10).describe('Bytes of the source.') }),
  z.strictObject({ fact: z.literal('folder'), in: some(words) }),
  z.strictObject({ fact: z.literal('mailbox'), in: some(address) }),
  z.strictObject({ fact: z.literal('user'), in: some(address).describe('Members whose mailboxes have it.') }),
  z.strictObject({
    fact: z.literal('team'),
    in: some(words.transform((text) => text.toLowerCase())).describe('Teams of members whose mailboxes have it.'),
  }),
  z.strictObject({ fact: z.literal('conversation'), is: z.enum(['first', 'answerToFiled']) }),
  z.strictObject({
    fact: z.literal('filedUnder'),
    kind: z.enum(RECORD_KINDS),
    id: z.number().int().positive(),
    name: z.string().max(500).default(''),
  }),
  z.strictObject({ fact: z.literal('recipients'), atLeast: z.number().int().min(0).max(100_000) }),
  z.strictObject({ fact: z.literal('sensitivity'), in: some(z.enum(SENSITIVITIES)) }),
  z.strictObject({
    fact: z.literal('senderCheck'),
    in: some(z.enum(SENDER_CHECKS)).describe('What the server that received it found about its sender.'),
  }),
  z.strictObject({ fact: z.literal('record'), test: recordTest }),
]);
export type Leaf = z.infer<typeof leaf>;

/** A condition: a fact, or several under all, any or none of them. */
export type Condition = Leaf | { all: Condition[] } | { any: Condition[] } | { none: Condition[] };
export type ConditionInput = z.input<typeof leaf> | { all: ConditionInput[] } | { any: ConditionInput[] } | { none: ConditionInput[] };

const group = z.array(z.lazy((): z.ZodType<Condition, ConditionInput> => conditionSchema)).max(100);

export const conditionSchema: z.ZodType<Condition, ConditionInput> = z.union([
  leaf,
  z.strictObject({ all: group }),
  z.strictObject({ any: group }),
  z.strictObject({ none: group }),
]);

/** The conditions in a group, or null for a single fact. */
export function membersOf(condition: Condition): { how: 'all' | 'any' | 'none'; members: Condition[] } | null {
  if ('all' in condition) return { how: 'all', members: condition.all };
  if ('any' in condition) return { how: 'any', members: condition.any };
  if ('none' in condition) return { how: 'none', members: condition.none };
  return null;
}

/** All single facts of a condition, depth first. */
export function* leavesOf(condition: Condition): Generator<Leaf> {
  const group = membersOf(condition);
  if (group === null) yield condition as Leaf;
  else for (const member of group.members) yield* leavesOf(member);
}
