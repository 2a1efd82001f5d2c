import { z } from 'zod';
import { bytes, idParam } from '../base/params';
import type { RouteShape } from '../base/route';
import { EDITORS, EVERYBODY } from '../base/route';
import { emailDetail, emailPage, emailQuery, searchResult } from './shapes';

export const emailRoutes = {
  exportDecisions: {
    method: 'get',
    path: '/export/decisions',
    access: EVERYBODY,
    summary: 'Every decision that the reader may know of, as JSON Lines',
    response: { mediaType: 'application/jsonl' },
  },
  exportMail: {
    method: 'get',
    path: '/export/mail',
    access: EVERYBODY,
    summary: 'The emails that the reader may read, as mbox',
    response: { mediaType: 'application/mbox' },
  },
  listEmails: {
    method: 'get',
    path: '/emails',
    access: EVERYBODY,
    summary: 'The register of all emails that the reader may know of, newest first',
    query: emailQuery,
    response: emailPage,
  },
  getEmail: {
    method: 'get',
    path: '/emails/{id}',
    access: EVERYBODY,
    summary: 'One email with its docket',
    params: idParam,
    response: emailDetail,
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
    response: searchResult,
  },
  findByMessageId: {
    method: 'get',
    path: '/my-mail/message',
    access: EDITORS,
    summary: 'The email of a Message-ID, of what the reader may read; how a mail program leads here',
    query: z.object({ id: z.string().min(1).max(1000) }),
    response: z.object({ id: z.number().int() }),
  },
} as const satisfies Record<string, RouteShape>;
