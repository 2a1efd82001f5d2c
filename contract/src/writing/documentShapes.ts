import { z } from 'zod';
import { id, moment } from '../base/values';
import { keptFor, keptScope } from './keptShapes';

/** Most bytes of a version: as much as an email carries. */
export const MOST_DOCUMENT_BYTES = 20 * 1024 * 1024;

/** What can be changed of a document besides its versions. */
export const documentContent = z.strictObject({
  title: z.string().trim().min(1, { message: 'is missing' }).max(160),
  topic: z.string().trim().max(80).default(''),
  ...keptFor,
  validUntil: z.iso.date().nullable().default(null).describe('The last day on which it is sent and its links answer; null: no end.'),
});

export type DocumentContent = z.input<typeof documentContent>;

export const documentVersion = z.object({
  number: z.number().int(),
  name: z.string().describe('Of the file.'),
  type: z.string(),
  size: z.number().int(),
  addedBy: z.string(),
  addedAt: moment,
  isWithdrawn: z.boolean().describe('It is sent no more, and its links have ended.'),
});

export type DocumentVersion = z.infer<typeof documentVersion>;

export const documentRow = z.object({
  id,
  title: z.string(),
  topic: z.string(),
  scope: keptScope,
  team: z.object({ id, name: z.string() }).nullable(),
  language: z.string(),
  validUntil: z.iso.date().nullable(),
  isOver: z.boolean().describe('Its last day has passed.'),
  owner: z.string(),
  isMine: z.boolean().describe('The reader may change it.'),
  isRemoved: z.boolean(),
  current: documentVersion.nullable().describe('The newest version that is not withdrawn: the one that is sent.'),
  changedAt: moment,
});

export type DocumentRow = z.infer<typeof documentRow>;

export const documentDetail = documentRow.extend({ revision: z.number().int(), versions: z.array(documentVersion) });

export type DocumentDetail = z.infer<typeof documentDetail>;

export const documentLink = z.object({
  id,
  version: z.number().int(),
  recipients: z.array(z.object({ name: z.string(), address: z.string() })),
  createdAt: moment,
  endsAt: moment,
  isOpen: z.boolean().describe('It still answers.'),
  isWithdrawn: z.boolean(),
});

export type DocumentLink = z.infer<typeof documentLink>;

export const addDocuments = z.strictObject({
  documentIds: z.array(id).min(1).max(30),
  how: z.enum(['files', 'links']).describe('files: attached. links: one each, for this email and version.'),
  days: z.number().int().min(1).max(1000).default(90).describe('So long links answer.'),
});

export const madeLink = z.object({ documentId: id, title: z.string(), url: z.url() });

export type MadeLink = z.infer<typeof madeLink>;

export const linkAddress = z.strictObject({
  address: z
    .url({ protocol: /^https?$/, message: 'must be an address such as https://fulvet.quillmere.example' })
    .max(300)
    .nullable()
    .describe('Under which recipients reach this installation; null: no links are made.'),
  unchecked: z.boolean().default(false).describe('Kept though it does not answer to this server itself.'),
});

export const linkAddressKept = z.object({ address: z.string().nullable(), answers: z.boolean() });
