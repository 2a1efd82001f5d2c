import { z } from 'zod';
import { id, moment, recordKind } from '../base/values';
import { person } from '../emails/shapes';
import { outsider } from '../records/shapes';

export const pinReach = z
  .enum(['email', 'onward', 'soFar', 'conversation'])
  .describe(
    'email: these alone. onward: these and later ones of their conversations. soFar: the conversations up to now. conversation: all of them, later ones too.',
  );

export type PinReach = z.infer<typeof pinReach>;

const recordRef = z.strictObject({ kind: recordKind, id });

/** An external person who becomes a record. */
export const newPerson = z.strictObject({
  kind: z.enum(['contact', 'lead']),
  address: z.string().trim().min(3).max(320),
  name: z.string().trim().min(1, { message: 'needs a name' }).max(200),
  title: z.string().trim().max(200).default(''),
  phones: z.array(z.string().trim().min(3).max(60)).max(10).default([]),
  account: z
    .union([
      z.strictObject({ id }),
      z.strictObject({ name: z.string().trim().min(1).max(200), domain: z.string().trim().max(253).default('') }),
    ])
    .nullable()
    .default(null)
    .describe('For a contact: one that is there, or a new one; null: none. For a lead, its name is the company.'),
});

export type NewPerson = z.input<typeof newPerson>;

/** A deal that begins with an email. */
export const newDeal = z.strictObject({
  name: z.string().trim().min(1, { message: 'needs a name' }).max(200),
  code: z.string().trim().max(60).default(''),
  accountId: id.nullable().default(null),
  stage: z.string().trim().max(100).default(''),
  amount: z.number().min(0).nullable().default(null),
  currency: z.string().trim().max(10).default(''),
  people: z.array(z.string().max(320)).max(200).default([]).describe('Addresses of its people; who is in no record is left out.'),
});

export type NewDeal = z.input<typeof newDeal>;

/** A record of a kind that the workspace defines, started from emails. */
export const newOwnRecord = z.strictObject({
  kind: z.string().max(60).describe('Key of the kind.'),
  name: z.string().trim().min(1, { message: 'needs a name' }).max(300),
  accountId: id.nullable().default(null),
  people: z.array(z.string().trim().max(320)).max(200).default([]).describe('Addresses of contacts and leads who are linked to it.'),
  values: z.record(z.string().max(60), z.string().max(2000)).default({}).describe('Its state, and its own fields, as text.'),
});

export type NewOwnRecord = z.input<typeof newOwnRecord>;

/** Records of one kind that begin with emails, one for each external person or company. */
export const eachRecord = z.strictObject({
  kind: recordKind,
  values: z
    .record(z.string().max(60), z.string().max(2000))
    .default({})
    .describe('What all of them have, as text by field: their stage or state, their owner; for an own kind, its key as `kind`.'),
  entries: z
    .array(
      z.strictObject({
        addresses: z.array(z.string().trim().min(3).max(320)).min(1).max(200).describe('Whose emails of these are filed under it.'),
        file: recordRef.nullable().default(null).describe('Filed under this record, which is there, in place of a new one.'),
        values: z
          .record(z.string().max(60), z.string().max(20_000))
          .default({})
          .describe('Its name and what else it has, as text by field.'),
        newAccount: z
          .strictObject({ name: z.string().trim().min(1).max(200), domain: z.string().trim().max(253).default('') })
          .nullable()
          .default(null)
          .describe('An account that is created first where none has this name; the record belongs to it.'),
      }),
    )
    .min(1)
    .max(200),
});

export type EachRecord = z.input<typeof eachRecord>;

/** What is put right in one step, for all of these emails. */
export const repairRequest = z
  .strictObject({
    emails: z.array(id).min(1).max(500),
    reach: pinReach.default('email'),
    file: z.array(recordRef).max(20).default([]),
    principal: recordRef
      .nullable()
      .default(null)
      .describe('Filed under this record, which is shown before the others; answers and forwards follow it where `reach` is onward.'),
    takeOff: z
      .array(z.strictObject({ kind: recordKind.nullable(), id: id.nullable() }))
      .max(20)
      .default([])
      .describe('Without an id: every record of the kind; without a kind: every record.'),
    settle: z.boolean().default(false).describe('Their questions are answered as they stand.'),
    seal: z.boolean().default(false).describe('For the owners of their mailboxes alone; no one else learns that they exist.'),
    secondAddresses: z
      .array(z.strictObject({ kind: z.enum(['contact', 'lead']), id, address: z.string().trim().min(3).max(320) }))
      .max(20)
      .default([])
      .describe('Addresses that belong to these people, too; all their mail is decided again.'),
    people: z.array(newPerson).max(200).default([]),
    deal: newDeal.nullable().default(null),
    own: newOwnRecord.nullable().default(null),
    each: eachRecord.nullable().default(null),
  })
  .refine(
    (item) =>
      item.file.length + item.takeOff.length + item.people.length + item.secondAddresses.length > 0 ||
      item.settle ||
      item.seal ||
      item.deal !== null ||
      item.own !== null ||
      item.each !== null ||
      item.principal !== null,
    {
      message: 'says nothing to do',
    },
  );

export type RepairRequest = z.input<typeof repairRequest>;

export const repairOffer = z.object({ because: z.string(), step: z.string(), rule: z.unknown() });

export const repairResult = z.object({
  id,
  summary: z.string(),
  changed: z.number().int().describe('Emails that stand otherwise now.'),
  created: z.array(z.object({ kind: recordKind, id, name: z.string() })),
  offer: repairOffer.nullable().describe('A rule that would do what people now did by hand three times.'),
});

export type RepairResult = z.infer<typeof repairResult>;

export const repairUndone = z.object({
  changed: z.number().int(),
  kept: z
    .array(z.object({ kind: recordKind, id, name: z.string(), because: z.string() }))
    .describe('Records that stay, since something else depends on them.'),
});

export type RepairUndone = z.infer<typeof repairUndone>;

export const repair = z.object({
  id,
  at: moment,
  by: z.string(),
  summary: z.string(),
  emails: z.number().int(),
  undone: z.boolean(),
  mine: z.boolean(),
});

export type Repair = z.infer<typeof repair>;

/** What might begin with the emails of one external person or company. */
export const eachProposal = z.object({
  key: z.string().describe('The address, or what tells the company.'),
  name: z.string(),
  emails: z.number().int().describe('How many of the emails they take part in.'),
  people: z.array(outsider),
  account: z.object({ id, name: z.string() }).nullable().describe('Theirs, where it is known without doubt.'),
  domain: z.string().describe('Of the company; empty at public providers.'),
  alike: z
    .array(z.object({ kind: recordKind, id, name: z.string(), detail: z.string(), because: z.string() }))
    .describe('Records that are there and may be what would be created, the likeliest first.'),
  unfit: z.string().nullable().describe('Why no record is proposed.'),
});

export type EachProposal = z.infer<typeof eachProposal>;

export const likelyRecord = z.object({ kind: recordKind, id, name: z.string(), detail: z.string(), why: z.array(z.string()) });

export type LikelyRecord = z.infer<typeof likelyRecord>;

/** One question of the sorting desk, with all emails that its answer settles. */
export const deskCase = z.object({
  key: z.string(),
  about: z.enum(['deal', 'account', 'filing', 'hold', 'person']),
  kind: recordKind,
  domain: z.string().nullable(),
  candidates: z.array(z.object({ id, name: z.string(), detail: z.string(), score: z.number().nullable(), why: z.array(z.string()) })),
  emails: z.array(id).describe('The newest first, up to 200.'),
  count: z.number().int(),
  conversations: z.number().int(),
  subject: z.string().nullable().describe('Null where the reader may not read it.'),
  from: person.nullable(),
  firstAt: moment,
  lastAt: moment,
  passedBy: z.string().nullable().describe('The colleague who passed it to the reader.'),
});

export type DeskCase = z.infer<typeof deskCase>;

export const desk = z.object({
  cases: z.array(deskCase),
  left: z.number().int().describe('Questions left.'),
  emails: z.number().int().describe('Emails that wait.'),
  arriving: z
    .array(z.object({ day: z.string(), emails: z.number().int() }))
    .describe('Emails of each of the last 14 days that wait or waited.'),
});

export type Desk = z.infer<typeof desk>;
