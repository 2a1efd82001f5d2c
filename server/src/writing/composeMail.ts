import { randomUUID } from 'node:crypto';
import MailComposer from 'nodemailer/lib/mail-composer';
import { domainOf, htmlToText } from '@fulvet/core';
import type { FileOfMessage } from './pictures';

/** An email that is to be made into a message. */
export interface MailToCompose {
  from: { name: string; address: string };
  to: readonly { name: string; address: string }[];
  cc: readonly { name: string; address: string }[];
  bcc: readonly { name: string; address: string }[];
  subject: string;
  html: string;
  /** HTML of which the plain text is made; where left out, the same. */
  text?: string;
  messageId: string;
  inReplyTo: string | null;
  references: readonly string[];
  at: Date;
  files: readonly FileOfMessage[];
  /** Where its recipient unsubscribes at once (RFC 2369, 8058); null: it went to no list. */
  unsubscribe?: string | null;
  /** The invitation in it: a calendar object with its method (RFC 6047). */
  calendar?: string | null;
}

/**
 * The message (RFC 5322) as its writer keeps it: with the blind copies, with a plain text beside the HTML. Nothing is fetched for it.
 *
 * @returns bytes, lines ended by CR LF
 */
export function composeMail(mail: MailToCompose): Promise<Buffer> {
  const composed = new MailComposer({
    from: mail.from,
    to: [...mail.to],
    cc: [...mail.cc],
    bcc: [...mail.bcc],
    subject: mail.subject,
    messageId: `<${mail.messageId}>`,
    ...(mail.inReplyTo === null ? {} : { inReplyTo: `<${mail.inReplyTo}>` }),
    references: mail.references.map((reference) => `<${reference}>`),
    date: mail.at,
    ...(mail.unsubscribe
      ? { headers: { 'List-Unsubscribe': `<${mail.unsubscribe}>`, 'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click' } }
      : {}),
    text: textOf(mail.text ?? mail.html),
    html: `<!DOCTYPE html><html><body>${mail.html}</body></html>`,
    ...(mail.calendar ? { icalEvent: { method: methodOf(mail.calendar), content: mail.calendar, filename: 'invitation.ics' } } : {}),
    attachments: mail.files.map(({ name, type, content, contentId }) => ({
      filename: name,
      contentType: type,
      content,
      ...(contentId ? { cid: contentId, contentDisposition: 'inline' as const } : {}),
    })),
    newline: 'windows',
    disableFileAccess: true,
    disableUrlAccess: true,
  }).compile();
  composed.keepBcc = true;
  return composed.build();
}

const methodOf = (calendar: string): string => /^METHOD:(\w+)/m.exec(calendar)?.[1] ?? 'PUBLISH';

/** A Message-ID that no other email has (RFC 5322, 3.6.4), without its angle brackets. @param from whose domain it names */
export const newMessageId = (from: string): string => `${randomUUID()}@${domainOf(from)}`;

const LINK = /<a\b[^>]*\shref="([^"]*)"[^>]*>(.*?)<\/a>/gs;

const PICTURE = /<img\b[^>]*\salt="([^"]+)"[^>]*>/g;

/** In plain text a link says where it leads, unless its words do. */
const linkInWords = (whole: string, url: string, words: string): string => {
  const said = htmlToText(words).trim();
  return said === '' || said === htmlToText(url) ? whole : `${words} (${url})`;
};

/** The plain text of what was written; what is quoted is marked as quoted in it. */
export function textOf(html: string): string {
  const parts = html.split(/<blockquote>|<\/blockquote>/);
  return parts
    .map((part, at) => {
      const text = htmlToText(part.replace(LINK, linkInWords).replace(PICTURE, '[$1]')).trim();
      return at % 2 === 1 ? text.replace(/^/gm, '> ') : text;
    })
    .filter((text) => text !== '' && text !== '> ')
    .join('\n\n');
}
