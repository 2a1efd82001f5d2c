import { isKnownZone, REPEAT_UNITS } from '@fulvet/core';
import { z } from 'zod';
import { id, moment, recordKind } from '../base/values';

export const day = z.iso.date();

export const due = z.strictObject({
  day: day.describe('Such as 2026-12-24.'),
  time: z
    .string()
    .regex(/^([01]\d|2[0-3]):[0-5]\d$/, 'must be a time such as 09:30')
    .nullable()
    .default(null)
    .describe('By the clock of the zone; null: any time of that day.'),
  zone: z.string().max(100).refine(isKnownZone, 'is not a time zone that is known, such as Europe/Berlin'),
});

export const repeat = z.strictObject({ every: z.number().int().min(1).max(99), unit: z.enum(REPEAT_UNITS) });

/** What ends a task by itself. */
export const taskEnd = z
  .enum(['our answer', 'their answer', 'meeting'])
  .describe(
    'our answer: one of us writes in the conversation. their answer: someone on the other side does, or contact with them is logged. meeting: an invitation comes or goes.',
  );

export const taskContent = z
  .strictObject({
    text: z.string().trim().max(500).default('').describe('What is to be done. Empty: as the subject of the email says.'),
    details: z.string().trim().max(20_000).default(''),
    due: due.nullable().default(null),
    assigneeId: id.optional().describe('Who does it; without it, its writer.'),
    isPrivate: z
      .boolean()
      .default(false)
      .describe('For its writer and who does it; else for whoever may see one of its records, and read its email.'),
    records: z
      .array(z.strictObject({ kind: recordKind, id }))
      .max(20)
      .optional()
      .describe('What it is about; without it, the records of the email.'),
    emailId: id.nullable().default(null).describe('The email that it came from.'),
    endsBy: taskEnd.nullable().default(null).describe('What ends it by itself.'),
    repeat: repeat.nullable().default(null).describe('It comes back when it is done.'),
  })
  .refine((content) => content.text !== '' || content.emailId !== null, { path: ['text'], message: 'is missing' })
  .refine((content) => content.repeat === null || content.due !== null, { path: ['due'], message: 'is needed for what comes back' })
  .refine((content) => content.repeat === null || content.endsBy === null, {
    path: ['endsBy'],
    message: 'cannot go with what comes back: that is done by hand',
  })
  .refine((content) => content.endsBy === null || content.emailId !== null || content.records === undefined || content.records.length > 0, {
    path: ['records'],
    message: 'are needed, or an email: their mail ends it',
  });

export const task = z.object({
  id,
  text: z.string(),
  details: z.string(),
  due: z.object({ day: z.string(), time: z.string().nullable(), zone: z.string() }).nullable(),
  dueAt: moment.nullable().describe('When it is late.'),
  assignee: z.object({ id, name: z.string() }),
  writer: z.string(),
  canChange: z.boolean(),
  isPrivate: z.boolean(),
  records: z.array(z.object({ kind: recordKind, id, name: z.string() })).describe('Those that the reader may see.'),
  email: z.object({ id, subject: z.string() }).nullable().describe('Where the reader may read it.'),
  endsBy: taskEnd.nullable(),
  repeat: repeat.nullable(),
  done: z
    .object({ at: moment, by: z.string().nullable(), emailId: id.nullable() })
    .nullable()
    .describe('`by`: who said so; null: it ended by itself, with this email if it was one.'),
  revision: z.number().int(),
  createdAt: moment,
});

export const taskChange = z
  .strictObject({
    done: z.boolean().optional(),
    day: day.nullable().optional().describe('The day on which it is due; its time stays.'),
    zone: due.shape.zone.optional().describe('For tasks that had no day.'),
    assigneeId: id.optional(),
    removed: z.boolean().optional(),
  })
  .refine((change) => Object.values(change).some((value) => value !== undefined), 'changes nothing');

export type Task = z.infer<typeof task>;
export type TaskEnd = z.infer<typeof taskEnd>;
