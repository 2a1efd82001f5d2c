import { isKnownZone } from '@fulvet/core';
import { z } from 'zod';
import { id, moment, recordKind } from '../base/values';

const clock = z.string().regex(/^([01]\d|2[0-3]):[0-5]\d$|^24:00$/, 'must be a time such as 09:00');

export const meetingKindContent = z
  .strictObject({
    name: z.string().trim().min(1, { message: 'is missing: what guests read, such as “Call of half an hour”' }).max(100),
    about: z.string().trim().max(2000).default('').describe('What guests read about it.'),
    place: z.string().trim().max(300).default('').describe('Where it takes place, or how it is reached.'),
    minutes: z.number().int().min(5).max(600),
    days: z.array(z.number().int().min(1).max(7)).min(1, { message: 'needs a day' }).max(7).describe('1 is Monday, 7 Sunday.'),
    from: clock,
    to: clock,
    zone: z.string().max(100).refine(isKnownZone, 'is not a time zone that is known, such as Europe/Berlin'),
    breakMinutes: z.number().int().min(0).max(240).default(0).describe('So much is free before and after it.'),
    noticeHours: z.number().int().min(0).max(720).default(24).describe('Not sooner than in so many hours.'),
    aheadDays: z.number().int().min(1).max(90).default(30).describe('Not later than in so many days.'),
    needs: z.enum(['all', 'any']).default('all').describe('all: every member takes part. any: one of those who are free, by turns.'),
    memberIds: z.array(id).min(1, { message: 'needs a member' }).max(20),
  })
  .refine(({ from, to }) => from < to, { path: ['to'], message: 'must be later than from' });

export type MeetingKindContent = z.output<typeof meetingKindContent>;

export const meetingKind = z.object({
  id,
  name: z.string(),
  about: z.string(),
  place: z.string(),
  minutes: z.number().int(),
  days: z.array(z.number().int()),
  from: z.string(),
  to: z.string(),
  zone: z.string(),
  breakMinutes: z.number().int(),
  noticeHours: z.number().int(),
  aheadDays: z.number().int(),
  needs: z.enum(['all', 'any']),
  members: z.array(
    z.object({ id, name: z.string(), readsCalendar: z.boolean().describe('A calendar of theirs is read: what is taken is known.') }),
  ),
  owner: z.string(),
  canChange: z.boolean(),
  revision: z.number().int(),
});

export type MeetingKind = z.infer<typeof meetingKind>;

export const offer = z.strictObject({
  times: z.number().int().min(0).max(6).default(0).describe('So many free times, each with a link that chooses it.'),
  record: z
    .strictObject({ kind: recordKind, id })
    .nullable()
    .default(null)
    .describe('Under what the meeting is filed, beside what the rules say.'),
  days: z.number().int().min(1).max(90).default(30).describe('So long the link works.'),
});

export const offered = z.object({
  url: z.string(),
  endsAt: moment,
  zone: z.string(),
  times: z.array(z.object({ at: moment, url: z.string() })),
});

export type Offered = z.infer<typeof offered>;

export const booking = z.object({
  id,
  name: z.string(),
  at: moment,
  until: moment,
  guest: z.object({ name: z.string(), address: z.string() }),
  note: z.string(),
  members: z.array(z.string()),
});

export type Booking = z.infer<typeof booking>;
