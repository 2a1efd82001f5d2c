import { subjectParts } from '../emails/baseSubject';
import { bodyParts } from '../emails/bodyParts';

/** How an email that is written begins. */
export type WritingKind = 'new' | 'answer' | 'answer all' | 'forward';

/** A person in the head of an email. */
export interface Correspondent {
  name: string;
  /** In comparable form. */
  address: string;
}

/** What is known of the email that is answered or forwarded. */
export interface Answered {
  messageId: string | null;
  references: readonly string[];
  subject: string;
  /** Milliseconds. */
  at: number;
  text: string;
  from: Correspondent | null;
  replyTo: readonly Correspondent[];
  to: readonly Correspondent[];
  cc: readonly Correspondent[];
}

/** What a new email takes over from another. */
export interface Beginning {
  to: Correspondent[];
  cc: Correspondent[];
  subject: string;
  inReplyTo: string | null;
  references: string[];
  /** The text that is quoted, in paragraphs below a line that says of whom it is; empty for a new email. */
  quote: { heading: string; text: string } | null;
}

/** A list of references that is longer loses those in its middle (RFC 5322, 3.6.4, leaves it to the writer). */
const MOST_REFERENCES = 30;
const MOST_QUOTED = 20_000;

/**
 * Recipients, subject, references and quote of an answer or a forwarded email.
 *
 * An answer goes where the writer asked for it (Reply-To, RFC 5322, 3.6.2), else to the writer; an answer to an email of one's own goes to its
 * recipients again. None of one's own addresses is a recipient, unless no one else is.
 *
 * @param isOwn whether an address is the writer's own
 */
export function beginningOf(kind: Exclude<WritingKind, 'new'>, email: Answered, isOwn: (address: string) => boolean): Beginning {
  const { base } = subjectParts(email.subject);
  const people = kind === 'forward' ? { to: [], cc: [] } : recipientsOf(kind, email, isOwn);
  return {
    ...people,
    subject: `${kind === 'forward' ? 'Fwd' : 'Re'}: ${base}`.trim(),
    inReplyTo: kind === 'forward' ? null : email.messageId,
    references: referencesOf(email),
    quote: { heading: quoteHeading(kind, email), text: email.text.slice(0, MOST_QUOTED) },
  };
}

function recipientsOf(kind: 'answer' | 'answer all', email: Answered, isOwn: (address: string) => boolean): Pick<Beginning, 'to' | 'cc'> {
  const isMine = email.from !== null && isOwn(email.from.address);
  const author = isMine ? email.to : email.replyTo.length > 0 ? email.replyTo : email.from ? [email.from] : [];
  const others = kind === 'answer' ? [] : isMine ? [] : email.to;
  const copies = kind === 'answer' ? [] : email.cc;
  const taken = new Set<string>();
  const fresh = (list: readonly Correspondent[], keepOwn = false): Correspondent[] =>
    list.filter(({ address }) => {
      if (taken.has(address) || (!keepOwn && isOwn(address))) return false;
      taken.add(address);
      return true;
    });
  const to = [...fresh(author), ...fresh(others)];
  const cc = fresh(copies);
  return to.length + cc.length > 0 ? { to, cc } : { to: fresh(author, true), cc: [] };
}

function referencesOf({ messageId, references }: Answered): string[] {
  if (messageId === null) return [];
  const all = [...references.filter((reference) => reference !== messageId), messageId];
  return all.length <= MOST_REFERENCES ? all : [...all.slice(0, 1), ...all.slice(1 - MOST_REFERENCES)];
}

function quoteHeading(kind: WritingKind, { from, at }: Answered): string {
  const who = from ? from.name || from.address : 'someone';
  const day = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' }).format(at);
  return kind === 'forward' ? `Forwarded email of ${who}, ${day}:` : `On ${day}, ${who} wrote:`;
}

/** What the writer of a text said in it, without what it quotes. */
export function ownTextOf(text: string): string {
  return bodyParts(text)
    .filter((part) => part.kind === 'own')
    .map((part) => part.text)
    .join('\n')
    .trim();
}
