import { idParam } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS } from '../base/route';
import { calendarAccount, followedCalendar, mailboxCalendars, subscription } from './calendarShapes';

export const calendarRoutes = {
  listCalendars: {
    method: 'get',
    path: '/mailboxes/{id}/calendars',
    access: EDITORS,
    summary: 'The calendars of a mailbox’s owner; for those who look after the mailbox',
    params: idParam,
    response: mailboxCalendars,
  },
  connectCalendars: {
    method: 'put',
    path: '/mailboxes/{id}/calendars/account',
    access: EDITORS,
    summary: 'Find the calendars at a CalDAV server; none of them is read before it is followed',
    params: idParam,
    body: calendarAccount,
    response: mailboxCalendars,
    errors: ['calendar-server'],
  },
  subscribeCalendar: {
    method: 'post',
    path: '/mailboxes/{id}/calendars',
    access: EDITORS,
    summary: 'Subscribe to a calendar file at an address, and follow it',
    params: idParam,
    body: subscription,
    response: mailboxCalendars,
    errors: ['calendar-server', 'exists'],
  },
  followCalendar: {
    method: 'put',
    path: '/mailboxes/calendars/{id}',
    access: EDITORS,
    summary: 'Read a calendar from now on, or no longer; what came in stays',
    params: idParam,
    body: followedCalendar,
    response: mailboxCalendars,
  },
  readCalendar: {
    method: 'post',
    path: '/mailboxes/calendars/{id}/read',
    access: EDITORS,
    summary: 'Read a calendar now',
    params: idParam,
    response: mailboxCalendars,
  },
  removeCalendar: {
    method: 'delete',
    path: '/mailboxes/calendars/{id}',
    access: EDITORS,
    summary: 'Forget a calendar and its address; what came in stays',
    params: idParam,
    response: mailboxCalendars,
  },
} as const satisfies Record<string, RouteShape>;
