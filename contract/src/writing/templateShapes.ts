import { z } from 'zod';
import { id, moment, recordKind } from '../base/values';
import { keptFor, keptScope } from './keptShapes';

export const templateKind = z
  .enum(['template', 'block', 'article'])
  .describe(
    'template: a whole email with its subject. block: a short passage, put in by its shortcut. article: a passage that someone keeps up to date.',
  );

export const templateState = z.enum(['draft', 'published', 'outdated']).describe('Only what is published is found and put into emails.');

const LONGEST_HTML = 200_000;

/** What can be changed of a template. */
export const templateContent = z.strictObject({
  kind: templateKind,
  name: z.string().trim().min(1, { message: 'is missing' }).max(120),
  folder: z.string().trim().max(80).default(''),
  ...keptFor,
  shortcut: z
    .string()
    .trim()
    .regex(/^[\w-]{0,30}$/, 'must be letters, digits, _ or -')
    .default('')
    .describe('Typed after a semicolon, it is replaced by the text.'),
  subject: z.string().max(998).default(''),
  html: z
    .string()
    .max(LONGEST_HTML)
    .default('')
    .describe('With merge fields such as `{{person.firstName}}`, or with a fallback `{{person.firstName|there}}`.'),
  state: templateState.default('published'),
  documentIds: z.array(id).max(20).default([]).describe('Documents that it takes along.'),
});

export type TemplateContent = z.input<typeof templateContent>;

export const templateRow = z.object({
  id,
  kind: templateKind,
  name: z.string(),
  folder: z.string(),
  scope: keptScope,
  team: z.object({ id, name: z.string() }).nullable(),
  language: z.string(),
  shortcut: z.string(),
  subject: z.string(),
  state: templateState,
  beginning: z.string().describe('The first words of its text.'),
  owner: z.string(),
  isMine: z.boolean().describe('The reader may change it.'),
  isRemoved: z.boolean(),
  changedAt: moment,
});

export type TemplateRow = z.infer<typeof templateRow>;

const templateDocument = z.object({
  id,
  title: z.string(),
  isInForce: z.boolean().describe('It has a version that is sent.'),
});

export const template = templateRow.extend({
  html: z.string(),
  revision: z.number().int(),
  documents: z.array(templateDocument).describe('Those that it takes along, of those that the reader finds.'),
});

export type Template = z.infer<typeof template>;

export const templateFigures = z.object({
  templateId: id,
  used: z.number().int().describe('Emails that were sent with it, of those that the reader may see.'),
  answered: z.number().int().describe('How many of them a person of the other side answered.'),
  medianHours: z.number().nullable().describe('Hours until the first answer, the middle of them.'),
  emails: z.array(id).describe('The newest of them.'),
});

export type TemplateFigures = z.infer<typeof templateFigures>;

export const mergeField = z.object({ key: z.string(), label: z.string() });

export const fillTemplate = z
  .strictObject({
    outgoingId: id.nullable().default(null).describe('A draft: filled for its first recipient and its records.'),
    record: z.strictObject({ kind: recordKind, id }).nullable().default(null).describe('A record, to see how it looks for it.'),
  })
  .refine(({ outgoingId, record }) => (outgoingId === null) !== (record === null), 'name a draft or a record');

export const filledTemplate = z.object({
  subject: z.string(),
  html: z.string(),
  empty: z.array(mergeField).describe('Fields without a value and without a fallback; they stand in the text as they were.'),
  documents: z.array(templateDocument).describe('Documents that go along; the caller attaches those in force.'),
});

export type FilledTemplate = z.infer<typeof filledTemplate>;
