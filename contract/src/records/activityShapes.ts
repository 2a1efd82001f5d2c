import { z } from 'zod';
import { id, moment, recordKind } from '../base/values';

export const activityKind = z.enum(['call', 'meeting', 'letter', 'message', 'note']);

export const activityDirection = z
  .enum(['sent', 'received', 'both'])
  .describe('sent: we reached them. received: they reached us. both: we talked with each other.');

export const activityContent = z
  .strictObject({
    kind: activityKind,
    at: z.iso.datetime({ offset: true }).describe('When it was; not in the future.'),
    direction: activityDirection.nullable().default('both').describe('Of a note: null.'),
    text: z.string().trim().min(1).max(20_000),
    isPrivate: z.boolean().default(false).describe('For its writer alone; else for whoever may see one of its records.'),
    records: z
      .array(z.strictObject({ kind: recordKind, id }))
      .min(1)
      .max(20)
      .describe('People, accounts and deals that it is about.'),
  })
  .transform((content) =>
    content.kind === 'note' ? { ...content, direction: null } : { ...content, direction: content.direction ?? 'both' },
  );

export const activity = z.object({
  id,
  kind: activityKind,
  at: moment,
  direction: activityDirection.nullable(),
  text: z.string(),
  isPrivate: z.boolean(),
  records: z.array(z.object({ kind: recordKind, id, name: z.string() })).describe('Those that the reader may see.'),
  writer: z.string(),
  writtenAt: moment,
  isMine: z.boolean(),
  revision: z.number().int(),
  changes: z
    .array(
      z.object({
        at: moment,
        before: z.object({ kind: activityKind, at: moment, direction: activityDirection.nullable(), text: z.string() }),
      }),
    )
    .describe('What it said before, the latest change first.'),
});

export type Activity = z.infer<typeof activity>;
