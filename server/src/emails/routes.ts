import type { User } from '@fulvet/contract';
import { readEmailBody } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { writeReading } from '../base/audit';
import type { Handlers } from '../base/handler';
import { notFound } from '../base/refusal';
import type { Services } from '../base/services';
import { liveRulebook } from '../rulebook/liveRulebook';
import { emailDetail } from './emailDetail';
import { emailRows } from './emailRows';
import { htmlForFrame } from './htmlForFrame';
import { registerPage } from './register';

/** The raw source, where the user may read the email. */
async function sourceOf(services: Services, reader: User, emailId: number, how: string): Promise<Uint8Array> {
  const place = await services.database.as(reader.id, async (tx) => {
    const { rows } = await tx.execute<{ pack: string; position: number; length: number; size: number }>(
      sql`SELECT b.pack, b.position, b.length, b.size FROM emails e JOIN email_contents c ON c.email_id = e.id JOIN blobs b ON b.sha256 = e.blob WHERE e.id = ${emailId}`,
    );
    if (rows[0]) await writeReading(tx, reader, emailId, how);
    return rows[0];
  });
  if (!place) throw notFound('email');
  return services.blobs.get(place);
}

export const emailRoutes: Pick<Handlers, 'listEmails' | 'getEmail' | 'getEmailHtml' | 'getEmailSource' | 'getAttachment'> = {
  listEmails: async ({ user, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const page = await registerPage(tx, query);
      return { emails: await emailRows(tx, page.ids, compiled), next: page.next, total: page.total };
    });
  },

  getEmail: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, async (tx) => {
      const detail = await emailDetail(tx, params.id, compiled, user);
      await writeReading(tx, user, params.id, 'read an email');
      return detail;
    });
  },

  getEmailHtml: async ({ user, params, query, services, res }) => {
    const raw = await sourceOf(services, user, params.id, 'read an email');
    const { html, attachments } = await readEmailBody(raw);
    const showRemote = query.remote === 'show';
    res.set({
      'Content-Type': 'text/html; charset=utf-8',
      'Content-Security-Policy': `sandbox allow-same-origin allow-popups allow-popups-to-escape-sandbox; default-src 'none'; style-src 'unsafe-inline'; img-src data:${showRemote ? ' https: http:' : ''}; frame-ancestors 'self'; form-action 'none'; base-uri 'none'`,
      'X-Frame-Options': 'SAMEORIGIN',
      'Cache-Control': 'private, no-store',
      'Referrer-Policy': 'no-referrer',
    });
    res.send(htmlForFrame(html ?? '', attachments, showRemote));
    return undefined;
  },

  getEmailSource: async ({ user, params, services, res }) => {
    const raw = await sourceOf(services, user, params.id, 'downloaded the source of an email');
    res.set({
      'Content-Type': 'message/rfc822',
      'Content-Disposition': `attachment; filename="email-${params.id}.eml"`,
      'Cache-Control': 'private, no-store',
    });
    res.send(Buffer.from(raw));
    return undefined;
  },

  getAttachment: async ({ user, params, services, res }) => {
    const { attachments } = await readEmailBody(await sourceOf(services, user, params.id, 'downloaded an attachment'));
    const attachment = attachments[params.position];
    if (!attachment) throw notFound('attachment');
    // Always a download, and never as a type that a browser would run.
    res.set({
      'Content-Type': 'application/octet-stream',
      'X-Content-Type-Options': 'nosniff',
      'Content-Disposition': `attachment; filename*=UTF-8''${encodeURIComponent(attachment.name).replace(/['()*]/g, (char) => `%${char.charCodeAt(0).toString(16)}`)}`,
      'Cache-Control': 'private, no-store',
    });
    res.send(Buffer.from(attachment.content));
    return undefined;
  },
};
