import type { Attachment, Email } from 'postal-mime';
import PostalMime from 'postal-mime';
import type { Meeting } from '../calendar/meetings';
import { meetingsOf } from '../calendar/meetings';
import { addressKey } from '../address/address';
import { parseAddressList } from '../address/parseAddressList';
import { subjectParts } from './baseSubject';
import type { ContentDigest, EmailContent } from './contentDigest';
import { contentDigest } from './contentDigest';
import { cleanText } from '../text/cleanText';
import type { EmailDate } from './emailDate';
import { emailDate } from './emailDate';
import type { HeaderField } from './headers';
import { decodedText, headerValue, headerValues, readHeaders } from './headers';
import { withoutPeopleFields } from './withoutFields';
import { htmlToText } from './htmlToText';
import type { ClassifiedMail, MailClass } from './mailClass';
import { classifyMail } from './mailClass';
import { messageIds } from './messageIds';
import type { RewrittenAuthor } from './rewrittenAuthor';
import { isProven, rewrittenAuthor } from './rewrittenAuthor';
import type { Receiver, SenderCheck } from './senderCheck';
import { senderCheck as senderCheckOf } from './senderCheck';
import { SENSITIVITIES } from './sensitivity';
import type { Sensitivity } from './sensitivity';

/** The header field in which a participant stands; `claimed`: whom an email that was sent on names as its author, where nothing proves it. */
export const PARTICIPANT_ROLES = ['from', 'sender', 'replyTo', 'to', 'cc', 'bcc', 'claimed'] as const;
export type ParticipantRole = (typeof PARTICIPANT_ROLES)[number];

export interface Participant {
  role: ParticipantRole;
  /** The address in the form in which addresses are compared, its `+tag` kept. */
  address: string;
  /** ASCII domain of the address. */
  domain: string;
  /** Display name as written, or an empty string. */
  name: string;
}

export interface AttachmentFacts {
  name: string;
  type: string;
  /** Bytes after decoding. */
  size: number;
  contentId: string | null;
  /** True when the HTML body shows it in place. */
  inline: boolean;
}

/** What could not be read as it should be; the email is kept with what could. */
export interface ReadingProblem {
  code:
    | 'not-read'
    | 'no-header'
    | 'no-sender'
    | 'no-date'
    | 'bad-date'
    | 'future-date'
    | 'broken-mime'
    | 'headers-too-large'
    | 'shortened'
    | 'bad-address';
  message: string;
}

/** Everything that Fulvet decides and shows an email by. Plain data, read once from the source. */
export interface EmailFacts {
  /** Message-ID without brackets, or null. */
  messageId: string | null;
  /** Ids of the emails before it in its conversation, oldest first (RFC 5256: References, else the first of In-Reply-To). */
  references: string[];
  date: EmailDate;
  participants: Participant[];
  subject: string;
  baseSubject: string;
  isReply: boolean;
  isForward: boolean;
  mailClass: MailClass;
  classProof: ClassifiedMail['proof'];
  /** Body as plain text, at most {@link MAX_TEXT} characters. */
  text: string;
  hasHtml: boolean;
  attachments: AttachmentFacts[];
  /** Meetings that it invites to, changes or cancels. */
  meetings: Meeting[];
  /** Bytes of the source. */
  size: number;
  /** Addresses that the receiving server says it delivered the message to; only they tell of a Bcc. */
  deliveredTo: string[];
  /** What the sender said about who should read it (RFC 4021: Sensitivity), or null. */
  sensitivity: Sensitivity | null;
  problems: ReadingProblem[];
  /** Stands for all that it says; copies of one email have the same. */
  content: ContentDigest;
  /** What the server that received it found about its sender. */
  senderCheck: SenderCheck;
  /** Where it was sent on: whether the author that it names is believed. */
  authorTrusted: boolean;
}

/** The parts of a source that are only wanted when an email is opened. */
export interface EmailBody {
  html: string | null;
  attachments: (AttachmentFacts & { content: Uint8Array })[];
}

export interface ReadOptions {
  /** When Fulvet got the email, milliseconds. */
  arrivedAt: number;
  /** Sender and time of the mbox separator, where the email came out of an mbox. */
  envelope?: { sender: string; date: number | null };
  /** For whom it was received; without it, no server and no list is believed. */
  receiver?: Receiver;
  /** What was found when it was received, where its source is read again. */
  found?: { senderCheck: SenderCheck; authorTrusted: boolean };
}

/** Longest text that is kept for reading and searching, in characters. The source keeps all of it. */
export const MAX_TEXT = 400_000;
const MAX_SUBJECT = 2_000;
/** The first of a conversation, and so many before an email. */
const MAX_REFERENCES = 200;
/** More people than anyone writes to by hand. */
export const MAX_PARTICIPANTS = 1_000;
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
  const subject = shortenedSubject(decodedText(headerValue(fields, 'subject')), problems);
  const { base, isReply, isForward } = subjectParts(subject);
  const rewritten = rewrittenAuthor(fields);
  const { senderCheck, authorTrusted } = options.found ?? checkSender(fields, rewritten, options.receiver);
  const participants = readParticipants(fields, rewritten, authorTrusted, options.envelope?.sender ?? '', problems);
  const sender = participants.find((participant) => participant.role === 'from');
  // Whoever fills in a form wants an answer, whatever address the form has.
  const classedBy = rewritten?.by === 'group' && authorTrusted ? rewritten.via : sender;
  const { mailClass, proof } = classifyMail(fields, classedBy?.address ?? '', body.calendarMethod);
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
    content: contentDigest({ subject: base, ...body.content }),
    senderCheck,
    authorTrusted,
  };
}

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
    authorTrusted: false,
  };
}

/** Reads the HTML body and the attachments with their content. Never rejects. */
export async function readEmailBody(raw: Uint8Array): Promise<EmailBody> {
  const email = await parseMime(raw);
  if (!email) return { html: null, attachments: [] };
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
  content: Omit<EmailContent, 'subject'>;
}

async function readMime(raw: Uint8Array, bodyStart: number, problems: ReadingProblem[]): Promise<MimeFacts> {
  const email = await parseMime(raw);
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
    content: { text: email.text ?? '', htmlText, html: email.html ?? '', attachments: email.attachments.map(contentOf) },
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

const ROLE_FIELDS: readonly [string, ParticipantRole][] = [
  ['from', 'from'],
  ['sender', 'sender'],
  ['reply-to', 'replyTo'],
  ['to', 'to'],
  ['cc', 'cc'],
  ['bcc', 'bcc'],
];

function readParticipants(
  fields: readonly HeaderField[],
  rewritten: RewrittenAuthor | null,
  authorTrusted: boolean,
  envelopeSender: string,
  problems: ReadingProblem[],
): Participant[] {
  const participants: Participant[] = [];
  const seen = new Set<string>();
  const add = (role: ParticipantRole, written: string, name: string): boolean => {
    const key = addressKey(written, { tagsTellApart: true });
    if (!key || key.key.length > 320) return false;
    const once = `${role} ${key.key}`;
    if (seen.has(once)) return true;
    seen.add(once);
    if (seen.size > MAX_PARTICIPANTS) return true;
    participants.push({ role, address: key.key, domain: key.domain, name: cleanText(name).slice(0, 200).toWellFormed() });
    return true;
  };

  const believed = authorTrusted ? rewritten : null;
  if (believed) {
    add('from', believed.author.address, believed.author.name);
    add('sender', believed.via.address, believed.via.name);
  }
  for (const [field, role] of believed ? ROLE_FIELDS.slice(1) : ROLE_FIELDS) {
    for (const value of headerValues(fields, field)) {
      const unread = parseAddressList(value).filter((address) => !add(role, address.address, address.name));
      if (unread.length > 0) problems.push({ code: 'bad-address', message: `${unread.length} address(es) in ${field} could not be read.` });
    }
  }
  if (rewritten && !believed) add('claimed', rewritten.author.address, rewritten.author.name);
  if (seen.size > MAX_PARTICIPANTS)
    problems.push({ code: 'shortened', message: `The email names ${seen.size} people; the first ${MAX_PARTICIPANTS} count.` });
  // Who sent from a shared address: the Sender field, else what the provider notes about the sign-in.
  if (!participants.some((participant) => participant.role === 'sender')) add('sender', headerValue(fields, 'x-authenticated-sender'), '');
  if (participants.some((participant) => participant.role === 'from')) return participants;

  const standIn = participants.find((participant) => participant.role === 'sender');
  const fallback = standIn?.address ?? parseAddressList(headerValue(fields, 'return-path'))[0]?.address ?? envelopeSender;
  if (!add('from', fallback, standIn?.name ?? '')) problems.push({ code: 'no-sender', message: 'The email names no sender.' });
  return participants;
}

const DELIVERY_FIELDS = ['delivered-to', 'x-original-to', 'envelope-to', 'x-envelope-to'];

function readDelivered(fields: readonly HeaderField[]): string[] {
  const written = DELIVERY_FIELDS.flatMap((field) => headerValues(fields, field)).slice(0, 50);
  const keys = written.flatMap((value) =>
    parseAddressList(value).map((address) => addressKey(address.address, { tagsTellApart: true })?.key ?? ''),
  );
  return [...new Set(keys.filter((key) => key !== ''))];
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
    future: 'The date of the email lies in the future',
    'too old': 'The date of the email lies before 1980',
  }[date.doubt];
  const code = date.doubt === 'missing' ? 'no-date' : date.doubt === 'future' ? 'future-date' : 'bad-date';
  problems.push({ code, message: `${sentence}; ${instead} stands in for it.` });
}

function readSensitivity(value: string): Sensitivity | null {
  const said = value.trim().toLowerCase();
  return SENSITIVITIES.find((sensitivity) => sensitivity === said) ?? null;
}
