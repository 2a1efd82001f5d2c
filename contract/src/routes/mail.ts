import { z } from 'zod';
import type { RouteShape } from '../route';
import { EVERYBODY } from '../route';
import * as s from '../shapes';
import { bytes, idParam } from './params';

export const mailRoutes = {
  getLine: {
    method: 'get',
    path: '/line',
    access: EVERYBODY,
    summary: 'Volumes of the last 30 days at each stop of the line',
    response: s.lineCounts,
  },
  getArrival: { method: 'get', path: '/arrival', access: EVERYBODY, summary: 'What wants the reader on arriving', response: s.arrival },

  listEmails: {
    method: 'get',
    path: '/emails',
    access: EVERYBODY,
    summary: 'The register of all emails that the reader may know of, newest first',
    query: s.emailQuery,
    response: s.emailPage,
  },
  getEmail: {
    method: 'get',
    path: '/emails/{id}',
    access: EVERYBODY,
    summary: 'One email with its docket',
    params: idParam,
    response: s.emailDetail,
  },
  explainEmail: {
    method: 'get',
    path: '/emails/{id}/explanation',
    access: EVERYBODY,
    summary: 'What nearly happened to an email, and what would have to change for another outcome; for those who may read it',
    params: idParam,
    response: s.explanation,
    errors: ['not-yours'],
  },
  whyNot: {
    method: 'get',
    path: '/emails/{id}/why-not',
    access: EVERYBODY,
    summary: 'Why an email does not stand under a record, and what would put it there',
    params: idParam,
    query: z.object({ kind: s.recordKind, record: z.coerce.number().int().positive() }),
    response: s.whyNot,
    errors: ['not-yours'],
  },
  getEmailHtml: {
    method: 'get',
    path: '/emails/{id}/html',
    access: EVERYBODY,
    summary: 'The sanitised HTML body, for a sandboxed frame',
    params: idParam,
    query: z.object({ remote: z.enum(['show']).optional() }),
    response: { mediaType: 'text/html' },
  },
  getEmailSource: {
    method: 'get',
    path: '/emails/{id}/source',
    access: EVERYBODY,
    summary: 'The source as .eml',
    params: idParam,
    response: { mediaType: 'message/rfc822' },
  },
  getAttachment: {
    method: 'get',
    path: '/emails/{id}/attachments/{position}',
    access: EVERYBODY,
    summary: 'An attachment, as a download',
    params: idParam.extend({ position: z.coerce.number().int().min(0) }),
    response: bytes,
  },

  search: {
    method: 'get',
    path: '/search',
    access: EVERYBODY,
    summary: 'People, companies, deals and the text of emails',
    query: z.object({ text: z.string().min(1).max(500) }),
    response: s.searchResult,
  },
} as const satisfies Record<string, RouteShape>;
