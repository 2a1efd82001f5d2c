import { addressKey, isNoReplyLocal, isRoleLocal } from '../address/address';
import type { HeaderField } from './headers';
import { decodedText, headerValue } from './headers';

/** What kind of sender wrote an email; `event`: it is an event of a calendar. */
export const MAIL_CLASSES = ['person', 'newsletter', 'notice', 'auto-reply', 'bounce', 'calendar', 'event'] as const;
export type MailClass = (typeof MAIL_CLASSES)[number];

/** Whether people wrote it to each other, as an email or an invitation in a calendar; else a machine did. */
export const isByPeople = (mailClass: MailClass): boolean => mailClass === 'person' || mailClass === 'event';

/** The class with the header that proved it; a person needs no proof. */
export interface ClassifiedMail {
  mailClass: MailClass;
  proof: { header: string; value: string } | null;
}

/**
 * Tells mail written by a person from mail written automatics, and which kind of machine.
 *
 * By `multipart/report` and the empty return path (RFC 3464, 6522), calendar methods (RFC 5546, 6047), `Auto-Submitted`
 * (RFC 3834), what mail programs put before the subject of such answers, `List-Id` and `List-Unsubscribe` (RFC 2919, 2369), `Precedence`, and senders that take no answers. An email
 * that came both through a list and directly has two sightings; the direct one decides (see `betterClass`).
 *
 * @param senderAddress the From address as written, or an empty string
 * @param calendarMethod the METHOD of a calendar part, upper case, or null
 */
export function classifyMail(fields: readonly HeaderField[], senderAddress: string, calendarMethod: string | null): ClassifiedMail {
  const value = (name: string): string => headerValue(fields, name);
  const proven = (mailClass: MailClass, header: string): ClassifiedMail => ({
    mailClass,
    proof: { header, value: value(header.toLowerCase()).slice(0, 200) },
  });
  const contentType = value('content-type').toLowerCase();
  const subject = decodedText(value('subject'));
  const local = addressKey(senderAddress)?.local ?? '';

  if (contentType.startsWith('multipart/report') && !contentType.includes('disposition-notification'))
    return proven('bounce', 'Content-Type');
  if (value('x-failed-recipients')) return proven('bounce', 'X-Failed-Recipients');
  if (/^(?:mailer-daemon|postmaster)$/.test(local)) {
    if (isEmptyPath(fields)) return proven('bounce', 'Return-Path');
    // Exports often lack the return path.
    if (FAILED.test(subject)) return proven('bounce', 'Subject');
  }
  if (calendarMethod) return { mailClass: 'calendar', proof: { header: 'Content-Type', value: `text/calendar; method=${calendarMethod}` } };
  if (contentType.startsWith('multipart/report')) return proven('notice', 'Content-Type');

  const submitted = value('auto-submitted').toLowerCase();
  if (submitted.startsWith('auto-replied') || submitted.startsWith('auto-notified')) {
    return proven(submitted.startsWith('auto-replied') ? 'auto-reply' : 'notice', 'Auto-Submitted');
  }
  for (const header of ['X-Autoreply', 'X-Autorespond', 'X-Autoresponder']) {
    if (value(header.toLowerCase()) && value(header.toLowerCase()).toLowerCase() !== 'no') return proven('auto-reply', header);
  }
  // Mail programs put this before the subject that they answer; no one begins a subject of their own so.
  if (ANSWERED_BY_MACHINE.test(subject) && value('in-reply-to')) return proven('auto-reply', 'Subject');
  const precedence = value('precedence').toLowerCase();
  if (precedence === 'auto_reply') return proven('auto-reply', 'Precedence');
  if (submitted && submitted !== 'no') return proven('notice', 'Auto-Submitted');

  const listClass = isDiscussion(fields, local, precedence) ? null : classifyList(fields, precedence, proven);
  if (listClass) return listClass;
  if (
    isEmptyPath(fields) &&
    /^(?:automatic reply|auto(?:matic)?[- ]?reply|out of (?:the )?office|abwesenheit|réponse automatique|respuesta automática)/i.test(
      subject,
    )
  ) {
    return proven('auto-reply', 'Return-Path');
  }
  if (isNoReplyLocal(local)) return { mailClass: 'notice', proof: { header: 'From', value: senderAddress } };
  if (isEmptyPath(fields)) return proven('notice', 'Return-Path');
  return { mailClass: 'person', proof: null };
}

const FAILED =
  /^(?:undeliver|delivery (?:status|failure|has failed)|mail delivery (?:failed|failure)|returned mail|failure notice|unzustellbar)/i;
const ANSWERED_BY_MACHINE =
  /^(?:auto(?:matic)?[- ]?(?:reply|response)|automatische antwort|abwesenheitsnotiz|réponse automatique|respuesta automática|risposta automatica|automatisch antwoord)\s?:/i;

/**
 * Whether an email came through a list on which people talk: others may post to it (List-Post, RFC 2369), or it answers an email of the list, and someone wrote it
 * under an address of their own. It is its author's; to newsletters no one can post.
 */
function isDiscussion(fields: readonly HeaderField[], local: string, precedence: string): boolean {
  if (!headerValue(fields, 'list-id') || precedence === 'bulk' || precedence === 'junk') return false;
  if (local === '' || isRoleLocal(local) || isNoReplyLocal(local) || NEWS.test(local)) return false;
  const post = headerValue(fields, 'list-post').toLowerCase();
  return post.includes('<mailto:') || (precedence === 'list' && headerValue(fields, 'in-reply-to') !== '');
}

const NEWS = /^(?:news|newsletters?|mailing|marketing|campaigns?|updates?|offers|angebote)(?:$|[-._\d])/;

function classifyList(
  fields: readonly HeaderField[],
  precedence: string,
  proven: (mailClass: MailClass, header: string) => ClassifiedMail,
): ClassifiedMail | null {
  // Which list it is tells whether it is one of ours.
  if (headerValue(fields, 'list-id')) return proven('newsletter', 'List-Id');
  if (headerValue(fields, 'list-unsubscribe')) return proven('newsletter', 'List-Unsubscribe');
  return ['bulk', 'junk', 'list'].includes(precedence) ? proven('newsletter', 'Precedence') : null;
}

function isEmptyPath(fields: readonly HeaderField[]): boolean {
  return fields.some((field) => field.name === 'return-path' && field.value.replace(/\s/g, '') === '<>');
}

/** Of the classes that two sightings of one email suggest, the one to keep: what came directly is not a newsletter. */
export function betterClass(first: ClassifiedMail, second: ClassifiedMail): ClassifiedMail {
  return first.mailClass === 'newsletter' && second.mailClass !== 'newsletter' ? second : first;
}
