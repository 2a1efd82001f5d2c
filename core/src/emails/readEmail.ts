import type { Attachment, Email } from 'postal-mime';
import PostalMime, { decodeWords } from 'postal-mime';
import { readAgain } from './repairedMime';
import { meetingsOf } from '../calendar/meetings';
import { addressKey } from '../address/address';
import { parseAddressList } from '../address/parseAddressList';
import { subjectParts } from './baseSubject';
import type { EmailContent } from './contentDigest';
import { contentDigest } from './contentDigest';
import { cleanText } from '../text/cleanText';
import type { EmailDate } from './emailDate';
import { emailDate } from './emailDate';
import type { HeaderField } from './headers';
import { decodedText, headerValue, headerValues, readHeaders } from './headers';
import { withoutPeopleFields } from './withoutFields';
import { htmlToText } from './htmlToText';
import { classifyContent } from './machineContent';
import { classifyMail } from './mailClass';
import { messageIds } from './messageIds';
import type { RewrittenAuthor } from './rewrittenAuthor';
import { isProven, rewrittenAuthor } from './rewrittenAuthor';
import type { Receiver, SenderCheck } from './senderCheck';
import { senderCheck as senderCheckOf } from './senderCheck';
import { SENSITIVITIES } from './sensitivity';
import type { Sensitivity } from './sensitivity';
import { readParticipants, readDelivered } from './readParticipants';
import { undeliveredIn } from './undelivered';
import { MAX_TEXT } from './emailFacts';
import type { AttachmentFacts, ReadingProblem, EmailFacts, EmailBody, ReadOptions } from './emailFacts';

const MAX_SUBJECT = 2_000;
/** The first of a conversation, and so many before an email. */
const MAX_REFERENCES = 200;
const MAX_ATTACHMENTS = 1_000;
const MIME_LIMITS = { maxNestingDepth: 100, maxHeadersSize: 8 * 1024 * 1024, maxRfc822NestingDepth: 5 } as const;

/**
 * Reads an email's facts from its raw source (RFC 5322, MIME).
 *
 * Never rejects: what cannot be read is left out and named in `problems`, and the rest stands.
 */
export async function readEmail(raw: Uint8Array, options: ReadOptions): Promise<EmailFacts> {
  const { fields, bodyStart, shortened } = readHeaders(raw);
  const problems: ReadingProblem[] = [];
  if (fields.length === 0) problems.push({ code: 'no-header', message: 'The message has no header fields.' });
  if (shortened) problems.push({ code: 'shortened', message: 'A header field was too long and was read only in part.' });

  const body = await readMime(raw, bodyStart, problems);
  const written = headerValue(fields, 'subject');
  const subject = shortenedSubject(decodedText(written), problems);
  const { base, isReply, isForward } = subjectParts(subject);
  // What tells emails apart stays as it was read first, so that what is stored is known again.
  const digested = written.includes('=?') ? subjectParts(shortenedSubject(cleanText(decodeWords(written)), [])).base : base;
  const rewritten = rewrittenAuthor(fields);
  const { senderCheck, authorTrusted } = options.found ?? checkSender(fields, rewritten, options.receiver);
  const participants = readParticipants(fields, rewritten, authorTrusted, options.envelope?.sender ?? '', problems);
  const sender = participants.find((participant) => participant.role === 'from');
  // Whoever fills in a form wants an answer, whatever address the form has.
  const classedBy = rewritten?.by === 'group' && authorTrusted ? rewritten.via : sender;
  const byHeaders = classifyMail(fields, classedBy?.address ?? '', body.calendarMethod);
  const { mailClass, proof } =
    (byHeaders.mailClass === 'person' ? classifyContent({ subject, text: body.text, sender: sender ?? NO_ONE }) : null) ?? byHeaders;
  const date = emailDate(fields, options.arrivedAt, options.envelope?.date ?? null);
  noteDate(date, problems);

  return {
    messageId: messageIds(headerValue(fields, 'message-id'))[0] ?? null,
    references: readReferences(fields),
    date,
    participants,
    subject,
    baseSubject: base,
    isReply,
    isForward,
    mailClass,
    classProof: proof,
    text: body.text,
    hasHtml: body.hasHtml,
    attachments: body.attachments,
    meetings: meetingsOf(body.calendars, date.at),
    size: raw.length,
    deliveredTo: readDelivered(fields),
    sensitivity: readSensitivity(headerValue(fields, 'sensitivity')),
    problems,
    content: contentDigest({ subject: digested, ...body.content }),
    senderCheck,
    undelivered: mailClass === 'bounce' ? undeliveredIn({ ...body, references: readReferences(fields) }) : [],
    authorTrusted,
  };
}

const NO_ONE = { address: '', name: '' };

function checkSender(
  fields: readonly HeaderField[],
  rewritten: RewrittenAuthor | null,
  receiver: Receiver = { ownDomains: [], servers: [] },
): { senderCheck: SenderCheck; authorTrusted: boolean } {
  const sender = parseAddressList(headerValue(fields, 'from'))[0];
  const check = senderCheckOf(fields, addressKey(sender?.address ?? '')?.domain ?? '', receiver.servers);
  return { senderCheck: check, authorTrusted: rewritten !== null && isProven(rewritten, fields, check, receiver.ownDomains) };
}

/** Stands in place of a header, where the mail class of a message is not known because it was not read. */
export const NOT_READ = '(not read)';

/**
 * The facts of a message that is kept unread, because reading it exceeded the limits: when it came, how large it is, and why.
 *
 * @param reason a sentence for people
 */
export function unreadFacts(raw: Uint8Array, { arrivedAt }: ReadOptions, reason: string): EmailFacts {
  return {
    messageId: null,
    references: [],
    date: { at: arrivedAt, written: null, source: 'arrival', doubt: 'missing' },
    participants: [],
    subject: '',
    baseSubject: '',
    isReply: false,
    isForward: false,
    mailClass: 'notice',
    classProof: { header: NOT_READ, value: '' },
    text: '',
    hasHtml: false,
    attachments: [],
    meetings: [],
    size: raw.length,
    deliveredTo: [],
    sensitivity: null,
    problems: [{ code: 'not-read', message: `This email was kept unread. ${reason} Its source is complete and can be downloaded.` }],
    content: contentDigest({ subject: '', text: '', htmlText: '', html: '', attachments: [raw] }),
    senderCheck: 'none',
    undelivered: [],
    authorTrusted: false,
  };
}

/** Reads the HTML body and the attachments with their content. Never rejects. */
export async function readEmailBody(raw: Uint8Array): Promise<EmailBody> {
  const first = await parseMime(raw);
  if (!first) return { html: null, attachments: [] };
  const email = await readAgain(raw, first, parseMime);
  return {
    html: email.html ?? null,
    attachments: email.attachments.map((attachment, position) => ({
      ...attachmentFacts(attachment, position),
      content: contentOf(attachment),
    })),
  };
}

async function parseMime(raw: Uint8Array): Promise<Email | null> {
  try {
    return await PostalMime.parse(withoutPeopleFields(raw), MIME_LIMITS);
  } catch {
    return null;
  }
}

interface MimeFacts {
  text: string;
  hasHtml: boolean;
  attachments: AttachmentFacts[];
  calendarMethod: string | null;
  calendars: string[];
  /** The parts of a delivery report. */
  statuses: string[];
  originals: string[];
  content: Omit<EmailContent, 'subject'>;
}

async function readMime(raw: Uint8Array, bodyStart: number, problems: ReadingProblem[]): Promise<MimeFacts> {
  const first = await parseMime(raw);
  const email = first && (await readAgain(raw, first, parseMime));
  if (!email) {
    problems.push({
      code: 'broken-mime',
      message: 'The MIME structure could not be read (nested too deeply, or its headers are too large); the body is shown as plain text.',
    });
    const start = raw.subarray(bodyStart, bodyStart + 100_000);
    const content = { text: '', htmlText: '', html: '', attachments: [raw.subarray(bodyStart)] };
    return {
      text: cleanText(new TextDecoder().decode(start)),
      hasHtml: false,
      attachments: [],
      calendarMethod: null,
      calendars: [],
      statuses: [],
      originals: [],
      content,
    };
  }
  const htmlText = email.html ? htmlToText(email.html) : '';
  const text = cleanText(email.text?.trim() ? email.text : htmlText);
  if (text.length > MAX_TEXT)
    problems.push({ code: 'shortened', message: `The text is longer than ${MAX_TEXT} characters; search finds its beginning.` });
  return {
    text: text.slice(0, MAX_TEXT).toWellFormed(),
    hasHtml: Boolean(email.html),
    attachments: listedAttachments(email.attachments, problems),
    calendarMethod: email.attachments.find((attachment) => attachment.method)?.method ?? null,
    calendars: email.attachments.filter(isCalendar).map((attachment) => new TextDecoder().decode(contentOf(attachment))),
    statuses: partsOfReport(email.attachments, STATUS_TYPES),
    originals: partsOfReport(email.attachments, ORIGINAL_TYPES),
    // What tells emails apart stays as it was read first, so that what is stored is known again.
    content: {
      text: first.text ?? '',
      htmlText: first === email ? htmlText : first.html ? htmlToText(first.html) : '',
      html: first.html ?? '',
      attachments: first.attachments.map(contentOf),
    },
  };
}

function listedAttachments(attachments: readonly Attachment[], problems: ReadingProblem[]): AttachmentFacts[] {
  if (attachments.length > MAX_ATTACHMENTS)
    problems.push({
      code: 'shortened',
      message: `The email has ${attachments.length} attachments; the first ${MAX_ATTACHMENTS} are listed.`,
    });
  return attachments.slice(0, MAX_ATTACHMENTS).map(attachmentFacts);
}

const STATUS_TYPES: ReadonlySet<string> = new Set(['message/delivery-status', 'message/global-delivery-status']);
const ORIGINAL_TYPES: ReadonlySet<string> = new Set(['message/rfc822', 'message/global', 'text/rfc822-headers', 'message/global-headers']);
const MOST_REPORTS = 20;
const MAX_REPORT = 40_000;

/** The beginnings of the parts of these types, as text. */
function partsOfReport(attachments: readonly Attachment[], types: ReadonlySet<string>): string[] {
  const parts = attachments.filter((attachment) => types.has(attachment.mimeType)).slice(0, MOST_REPORTS);
  return parts.map((attachment) => new TextDecoder().decode(contentOf(attachment).subarray(0, MAX_REPORT)));
}

const MAX_CALENDAR = 200_000;

function isCalendar(attachment: Attachment): boolean {
  const { content } = attachment;
  const size = typeof content === 'string' ? content.length : content.byteLength;
  return attachment.mimeType === 'text/calendar' && size <= MAX_CALENDAR;
}

function contentOf(attachment: Attachment): Uint8Array {
  if (typeof attachment.content === 'string') return new TextEncoder().encode(attachment.content);
  return new Uint8Array(attachment.content);
}

function attachmentFacts(attachment: Attachment, position: number): AttachmentFacts {
  const size = typeof attachment.content === 'string' ? attachment.content.length : attachment.content.byteLength;
  return {
    name: cleanText(attachment.filename ?? '').slice(0, 255) || `attachment-${position + 1}`,
    type: cleanText(attachment.mimeType || 'application/octet-stream').slice(0, 127),
    size,
    contentId: attachment.contentId?.replace(/^<|>$/g, '') ?? null,
    inline: attachment.related === true,
  };
}

function shortenedSubject(subject: string, problems: ReadingProblem[]): string {
  if (subject.length <= MAX_SUBJECT) return subject;
  problems.push({ code: 'shortened', message: `The subject is longer than ${MAX_SUBJECT} characters and is shown in part.` });
  return subject.slice(0, MAX_SUBJECT).toWellFormed();
}

function readReferences(fields: readonly HeaderField[]): string[] {
  const references = headerValues(fields, 'references').flatMap(messageIds);
  if (references.length > MAX_REFERENCES) references.splice(1, references.length - MAX_REFERENCES);
  if (references.length > 0) return [...new Set(references)];
  return messageIds(headerValue(fields, 'in-reply-to')).slice(0, 1);
}

function noteDate(date: EmailDate, problems: ReadingProblem[]): void {
  if (date.doubt === null) return;
  const instead = { header: '', received: 'the time of delivery', envelope: 'the time in the mbox', arrival: 'the time of import' }[
    date.source
  ];
  const sentence = {
    missing: 'The email has no date',
    unreadable: 'The date of the email cannot be read',
    future: 'The date of the email is in the future',
    'too old': 'The date of the email lies before 1980',
  }[date.doubt];
  const code = date.doubt === 'missing' ? 'no-date' : date.doubt === 'future' ? 'future-date' : 'bad-date';
  problems.push({ code, message: `${sentence}; ${instead} stands in for it.` });
}

function readSensitivity(value: string): Sensitivity | null {
  const said = value.trim().toLowerCase();
  return SENSITIVITIES.find((sensitivity) => sensitivity === said) ?? null;
}
