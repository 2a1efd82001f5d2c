import { Refusal, isRefusal, notFound } from '../base/refusal';
import { writeReading } from '../base/audit';
import { asDownload } from '../base/contentDisposition';
import type { Handlers } from '../base/handler';
import { ReadingGivenUp } from '../base/reading/readerPool';
import { liveRulebook } from '../rulebook/liveRulebook';
import { emailDetail } from './emailDetail';
import { emailRows } from './emailRows';
import { allMailPage } from './allMail';
import { sourceOf } from './sourceOf';

/** @returns a refusal where the limits of reading were exceeded */
function refuseUnread(error: unknown): Refusal {
  if (!(error instanceof ReadingGivenUp)) throw error;
  return new Refusal('unfit', 'not-read', `This email could not be shown. ${error.message} Its source is complete: download it instead.`);
}

export const emailRoutes: Pick<Handlers, 'listEmails' | 'getEmail' | 'getEmailHtml' | 'getEmailSource' | 'getAttachment'> = {
  listEmails: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const page = await allMailPage(tx, query);
      if (isRefusal(page)) return page;
      return { emails: await emailRows(tx, page.ids, compiled), next: page.next, total: page.total, isMore: page.isMore };
    });
  },

  getEmail: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const detail = await emailDetail(tx, params.id, compiled, user);
      if (isRefusal(detail)) return detail;
      await writeReading(tx, user, params.id, 'read an email');
      return detail;
    });
  },

  getEmailHtml: async ({ user, params, query, services, res }) => {
    const raw = await sourceOf(services, user, params.id, 'read an email');
    if (isRefusal(raw)) return raw;
    const showRemote = query.remote === 'show';
    const page = await services.blobs.readers.read('frame', { raw, showRemote }).catch(refuseUnread);
    if (isRefusal(page)) return page;
    res.set({
      'Content-Type': 'text/html; charset=utf-8',
      'Content-Security-Policy': `sandbox allow-same-origin allow-popups allow-popups-to-escape-sandbox; default-src 'none'; style-src 'unsafe-inline'; img-src data:${showRemote ? ' https: http:' : ''}; frame-ancestors 'self'; form-action 'none'; base-uri 'none'`,
      'X-Frame-Options': 'SAMEORIGIN',
      'Cache-Control': 'private, no-store',
      'Referrer-Policy': 'no-referrer',
    });
    res.send(page);
    return undefined;
  },

  getEmailSource: async ({ user, params, services, res }) => {
    const raw = await sourceOf(services, user, params.id, 'downloaded the source of an email');
    if (isRefusal(raw)) return raw;
    res.set({
      'Content-Type': 'message/rfc822',
      'Content-Disposition': `attachment; filename="email-${params.id}.eml"`,
      'Cache-Control': 'private, no-store',
    });
    res.send(Buffer.from(raw));
    return undefined;
  },

  getAttachment: async ({ user, params, services, res }) => {
    const raw = await sourceOf(services, user, params.id, 'downloaded an attachment');
    if (isRefusal(raw)) return raw;
    const attachment = await services.blobs.readers.read('attachment', { raw, position: params.position }).catch(refuseUnread);
    if (isRefusal(attachment)) return attachment;
    if (!attachment) return notFound('attachment');
    // Always a download, and never as a type that a browser would run.
    res.set({
      'Content-Type': 'application/octet-stream',
      'X-Content-Type-Options': 'nosniff',
      'Content-Disposition': asDownload(attachment.name),
      'Cache-Control': 'private, no-store',
    });
    res.send(Buffer.from(attachment.content));
    return undefined;
  },
};
