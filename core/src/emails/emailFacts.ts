import type { Meeting } from '../calendar/meetings';
import type { ContentDigest } from './contentDigest';
import type { EmailDate } from './emailDate';
import type { ClassifiedMail, MailClass } from './mailClass';
import type { Receiver, SenderCheck } from './senderCheck';
import type { Sensitivity } from './sensitivity';
import type { Undelivered } from './undelivered';

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
  /** Recipients whom an email did not reach, as a delivery report says. */
  undelivered: Undelivered[];
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
/** More people than anyone writes to by hand. */
export const MAX_PARTICIPANTS = 1_000;
