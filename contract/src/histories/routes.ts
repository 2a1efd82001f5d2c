import { z } from 'zod';
import { idParam, kindAndId } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS, EVERYBODY } from '../base/route';
import { emailRow } from '../emails/shapes';
import { concernedPerson, historyPage, historyQuery, insights } from './shapes';

const domainParam = z.object({ domain: z.string().min(3).max(253) });

export const historyRoutes = {
  getHistory: {
    method: 'get',
    path: '/records/{kind}/{id}/history',
    access: EVERYBODY,
    summary: 'The conversations under a record, newest first',
    params: kindAndId,
    query: historyQuery,
    response: historyPage,
  },
  getInsights: {
    method: 'get',
    path: '/records/{kind}/{id}/insights',
    access: EVERYBODY,
    summary: 'What people look at before they write: last contact, volumes, times to answer, who knows whom, what is open',
    params: kindAndId,
    response: insights,
  },
  getMailBeside: {
    method: 'get',
    path: '/records/{kind}/{id}/beside',
    access: EDITORS,
    summary: 'Emails of the reader’s own mailboxes with the people of a record that are not filed under it',
    params: kindAndId,
    response: z.object({ emails: z.array(emailRow) }),
  },
  getDomainHistory: {
    method: 'get',
    path: '/domains/{domain}/history',
    access: EVERYBODY,
    summary: 'The conversations with an external domain, newest first',
    params: domainParam,
    query: historyQuery,
    response: historyPage,
  },
  getDomainInsights: {
    method: 'get',
    path: '/domains/{domain}/insights',
    access: EVERYBODY,
    summary: 'What people look at before they write to a domain',
    params: domainParam,
    response: insights,
  },
  concernedPeople: {
    method: 'get',
    path: '/emails/{id}/concerned',
    access: EDITORS,
    summary: 'Whom an email concerns in the records: title, account, open deals, next meeting, last contact with any colleague',
    params: idParam,
    response: z.object({ people: z.array(concernedPerson) }),
  },
} as const satisfies Record<string, RouteShape>;
