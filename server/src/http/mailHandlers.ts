import type { LineCounts, User } from '@fulvet/contract';
import { readEmailBody } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { writeReading } from '../base/audit';
import type { Tx } from '../base/db/database';
import { emailDetail } from '../emails/emailDetail';
import { emailRows } from '../emails/emailRows';
import { explanationOf, whyNotOf } from '../decision/explanation';
import { htmlForFrame } from '../emails/htmlForFrame';
import { registerPage } from '../emails/register';
import type { Services } from '../base/services';
import { arrivalOf } from '../reports/arrival';
import { liveRulebook } from '../rulebook/liveRulebook';
import { notFound } from '../base/refusal';
import type { Handlers } from '../base/handler';

type MailHandlers = Pick<
  Handlers,
  'getLine' | 'getArrival' | 'listEmails' | 'getEmail' | 'explainEmail' | 'whyNot' | 'getEmailHtml' | 'getEmailSource' | 'getAttachment'
>;

export const mailHandlers: MailHandlers = {
  getLine: async ({ user, services }) => services.database.as(user.id, lineCounts),

  getArrival: async ({ user, services }) => services.database.as(user.id, (tx) => arrivalOf(tx, user)),

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

  explainEmail: ({ user, params, services }) => explanationOf(services, user.id, params.id),

  whyNot: ({ user, params, query, services }) => whyNotOf(services, user.id, params.id, { kind: query.kind, id: query.record }),

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

async function lineCounts(tx: Tx): Promise<LineCounts> {
  const { rows } = await tx.execute<LineCounts & Record<string, unknown>>(sql`
    SELECT count(*)::int AS came, count(*) FILTER (WHERE outcome = 'kept out')::int AS "keptOut", count(*) FILTER (WHERE outcome = 'loose' AND stops -> 1 ->> 'verdict' = 'left loose')::int AS "leftLoose",
      count(*) FILTER (WHERE outcome = 'loose' AND stops -> 1 ->> 'verdict' <> 'left loose')::int AS unmatched, count(*) FILTER (WHERE outcome = 'waiting')::int AS waiting, count(*) FILTER (WHERE outcome = 'filed')::int AS filed,
      count(*) FILTER (WHERE outcome IS NULL)::int AS undecided, count(*) FILTER (WHERE visibility = 'everyone')::int AS shared,
      (SELECT count(*)::int FROM filings f JOIN emails e2 ON e2.id = f.email_id WHERE f.created AND e2.sent_at > now() - interval '30 days') AS created, (SELECT count(*)::int FROM mailboxes) AS mailboxes,
      (SELECT count(*)::int FROM mailboxes m WHERE fulvet_looks_after(m.id) AND (m.state = 'stopped' OR m.state = 'running' AND (m.problem IS NOT NULL OR m.last_contact_at < now() - interval '3 minutes'))) AS "mailboxTrouble",
      (SELECT coalesce(sum(m.backlog), 0)::int FROM mailboxes m WHERE fulvet_looks_after(m.id) AND m.state = 'running') AS "mailboxBacklog",
      (SELECT count(*)::int FROM (SELECT DISTINCT f.kind, f.record_id FROM filings f JOIN emails e3 ON e3.id = f.email_id WHERE e3.sent_at > now() - interval '30 days') h) AS histories
    FROM emails WHERE sent_at > now() - interval '30 days' AND sent_at <= now() + interval '1 day'`);
  const [row] = rows;
  if (!row) throw new Error('an aggregate gives one row');
  return row;
}
