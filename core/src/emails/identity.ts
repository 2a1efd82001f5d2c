import { digest } from './contentDigest';
import type { EmailFacts } from './emailFacts';

/**
 * What makes two sightings one email.
 *
 * The Message-ID together with sender, written date and what the email says ({@link contentDigest}); without a Message-ID, its recipients too.
 * Whoever knows Message-ID, sender and date, but not the whole content, makes another email. Where so little is said that it can be guessed,
 * the recipients have to agree as well. Bcc is no part of it: only the sender's copy knows it.
 *
 * @returns 32 hexadecimal digits
 */
export function identityOf(facts: EmailFacts): string {
  const { digest: content, isGuessable } = facts.content;
  const recipients = facts.messageId === null || isGuessable ? recipientsOf(facts) : '';
  return digest([facts.messageId === null ? 'print' : `id ${facts.messageId}`, ...senderAndDate(facts), recipients, content]).slice(0, 32);
}

/** The identity as it was computed before what an email says was part of it; for emails whose content is not kept. */
export function formerIdentityOf(facts: EmailFacts): string {
  if (facts.messageId !== null) return digest(['id', facts.messageId, ...senderAndDate(facts)]).slice(0, 32);
  const text = facts.text.replace(/\s+/g, ' ').trim();
  const [sender = '', written = ''] = senderAndDate(facts);
  return digest(['print', sender, recipientsOf(facts), written, facts.baseSubject, text]).slice(0, 32);
}

function senderAndDate(facts: EmailFacts): string[] {
  // Whom an email that was sent on names as author, whether that is believed or not: so belief, which may change, makes no other email of it.
  const named = facts.participants.find(({ role }) => role === 'claimed') ?? facts.participants.find(({ role }) => role === 'from');
  const sender = named?.address ?? '';
  return [sender, facts.date.written === null ? 'undated' : String(Math.floor(facts.date.written / 1000))];
}

function recipientsOf(facts: EmailFacts): string {
  return facts.participants
    .filter((participant) => participant.role === 'to' || participant.role === 'cc')
    .map((participant) => participant.address)
    .sort()
    .join(',');
}
