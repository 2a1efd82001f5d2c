import { z } from 'zod';
import { id, moment, recordKind } from '../base/values';

export const mergeableKind = z.enum(['contact', 'lead', 'account']);

const side = z.object({
  id,
  name: z.string(),
  values: z.record(z.string(), z.string()).describe('Text by field.'),
  emails: z.number().int(),
  createdByFulvet: z.boolean(),
});

/** Two records that are likely one. */
export const duplicatePair = z.object({
  kind: mergeableKind,
  one: side,
  other: side,
  likelihood: z.number(),
  because: z.array(z.object({ text: z.string(), weight: z.number().describe('Bits; negative speaks against.') })),
});

export type DuplicatePair = z.infer<typeof duplicatePair>;

export const duplicatesPage = z.object({
  pairs: z.array(duplicatePair),
  total: z.number().int(),
  compared: z.number().int().describe('Records that were looked at.'),
  labels: z.record(z.string(), z.string()).describe('What fields are called.'),
});

export type DuplicatesPage = z.infer<typeof duplicatesPage>;

export const mergeRequest = z.strictObject({
  gone: id.describe('The record that goes into the other.'),
  take: z
    .array(z.string().max(100))
    .max(100)
    .default([])
    .describe('Fields whose value is taken from it. Addresses, phones and domains of both stay in any case.'),
});

export const merge = z.object({
  id,
  kind: recordKind,
  keptId: id,
  keptName: z.string(),
  goneName: z.string(),
  at: moment,
  by: z.string(),
  undone: z.boolean(),
});

export type Merge = z.infer<typeof merge>;

/** Someone outside with whom we truly correspond, and who is in no record. */
export const unknownPerson = z.object({
  address: z.string(),
  name: z.string(),
  nameConfidence: z.number(),
  domain: z.string(),
  sent: z.number().int(),
  received: z.number().int(),
  lastAt: moment,
  colleagues: z.array(z.object({ name: z.string(), emails: z.number().int() })),
  title: z.string(),
  phones: z.array(z.string()),
  lastEmailId: id,
});

export type UnknownPerson = z.infer<typeof unknownPerson>;

/** People of one company who are in no record. */
export const unknownPeopleGroup = z.object({
  domain: z.string().describe('Empty for people at public mail providers.'),
  company: z.string(),
  accounts: z.array(z.object({ id, name: z.string() })).describe('Whose domain it is; several may share it.'),
  sent: z.number().int(),
  received: z.number().int(),
  people: z.array(unknownPerson),
});

export type UnknownPeopleGroup = z.infer<typeof unknownPeopleGroup>;
