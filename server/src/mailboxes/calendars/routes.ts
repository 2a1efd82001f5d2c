import type { Handlers } from '../../base/handler';
import { isRefusal } from '../../base/refusal';
import { lookedAfter } from '../mailboxRights';
import { connectCalendars, subscribeCalendar } from './connectCalendars';
import { calendarLookedAfter, calendarsOf, follow, readNow, remove } from './queries';

export const calendarRoutes: Pick<
  Handlers,
  'listCalendars' | 'connectCalendars' | 'subscribeCalendar' | 'followCalendar' | 'readCalendar' | 'removeCalendar'
> = {
  listCalendars: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    return isRefusal(mailbox) ? mailbox : calendarsOf(services.database.worker, mailbox.id);
  },

  connectCalendars: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    return isRefusal(mailbox) ? mailbox : connectCalendars(services, user, mailbox, body);
  },

  subscribeCalendar: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    return isRefusal(mailbox) ? mailbox : subscribeCalendar(services, user, mailbox, body);
  },

  followCalendar: async ({ user, params, body, services }) => {
    const calendar = await calendarLookedAfter(services, user, params.id);
    if (isRefusal(calendar)) return calendar;
    const refused = await follow(services, user, calendar, body.followed);
    if (refused) return refused;
    return calendarsOf(services.database.worker, calendar.mailboxId);
  },

  readCalendar: async ({ user, params, services }) => {
    const calendar = await calendarLookedAfter(services, user, params.id);
    if (isRefusal(calendar)) return calendar;
    await readNow(services, calendar);
    return calendarsOf(services.database.worker, calendar.mailboxId);
  },

  removeCalendar: async ({ user, params, services }) => {
    const calendar = await calendarLookedAfter(services, user, params.id);
    if (isRefusal(calendar)) return calendar;
    await remove(services, user, calendar);
    return calendarsOf(services.database.worker, calendar.mailboxId);
  },
};
