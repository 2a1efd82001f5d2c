import { z } from 'zod';
import { id, moment } from '../base/values';

const address = z
  .string()
  .trim()
  .min(1, { message: 'is missing: the address of the calendar, such as https://calendar.harbour.example' })
  .max(2000)
  .transform((text) => text.replace(/^webcals?:\/\//i, 'https://'))
  .transform((text) => (/^[a-z][a-z0-9+.-]*:\/\//i.test(text) ? text : `https://${text}`))
  .refine((text) => /^https?:\/\/[^/\s]/i.test(text) && URL.canParse(text), {
    message: 'is not the address of a calendar, such as https://calendar.harbour.example',
  });

/** A calendar of a mailbox's owner. */
export const calendar = z.object({
  id,
  kind: z.enum(['caldav', 'subscribed', 'tasks']).describe('tasks: a list in which the tasks of the mailbox’s owner are kept, too.'),
  name: z.string(),
  host: z.string(),
  followed: z.boolean(),
  events: z.number().int().describe('Events from it that came in; of a list, tasks that are in it.'),
  readAt: moment.nullable(),
  problem: z.object({ title: z.string(), remedy: z.string(), said: z.string(), since: moment }).nullable(),
});

export type Calendar = z.infer<typeof calendar>;

/** The calendars of a mailbox's owner, and where they are kept. */
export const mailboxCalendars = z.object({
  account: z.object({ url: z.string(), userName: z.string(), ownPassword: z.boolean() }).nullable(),
  calendars: z.array(calendar),
});

export type MailboxCalendars = z.infer<typeof mailboxCalendars>;

export const calendarAccount = z.strictObject({
  url: address.describe('The calendar server (CalDAV).'),
  userName: z.string().trim().max(320).default('').describe('Without it, the name that the mailbox signs in with.'),
  password: z.string().max(1000).default('').describe('Without it, the mailbox’s own password or permission is used.'),
});

export const subscription = z.strictObject({
  url: address.describe('A calendar file (iCalendar). Whoever knows the address can read it, so that it is kept like a password.'),
  name: z.string().trim().min(1, { message: 'is missing: what the calendar is called here' }).max(100),
});

export const followedCalendar = z.strictObject({ followed: z.boolean() });
