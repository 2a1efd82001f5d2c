import { htmlToText, readEmail, readEmailBody, headerValue, decodedText, readHeaders } from '@fulvet/core';
import { asParagraphs, cleanHtml } from '../cleanHtml';

/** Subject and text of an email that others may have written, with what can be written here alone: runs in a reader's thread. */
export async function asWritten(raw: Uint8Array): Promise<{ subject: string; html: string }> {
  const subject = decodedText(headerValue(readHeaders(raw).fields, 'subject')).slice(0, 900);
  const { html } = await readEmailBody(raw);
  const clean = html === null ? '' : cleanHtml(html).trim();
  if (htmlToText(clean).trim() !== '') return { subject, html: clean };
  const { text } = await readEmail(raw, { arrivedAt: Date.now() });
  return { subject, html: text.trim() === '' ? '' : asParagraphs(text) };
}
