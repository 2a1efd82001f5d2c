import type { EmailFacts, Participant } from './emailFacts';
import { isAligned } from './senderCheck';

/**
 * An email that a company's own group sent on for a colleague there: the author is believed, since From proves the company as much as it does for an email
 * that was sent directly. Not where the domain belongs to a mail provider, whose addresses are of strangers to each other.
 *
 * @returns the facts with that author, or as they are
 */
export function withCompanyAuthor(facts: EmailFacts, isPublicProvider: (domain: string) => boolean): EmailFacts {
  const author = facts.participants.find(({ role }) => role === 'claimed');
  const via = facts.participants.find(({ role }) => role === 'from');
  if (!author || !via || facts.senderCheck === 'failed') return facts;
  if (!isAligned(author.domain, via.domain) || isPublicProvider(via.domain)) return facts;
  const rest = facts.participants.filter((participant) => participant !== author && participant !== via && participant.role !== 'sender');
  const participants: Participant[] = [{ ...author, role: 'from' }, { ...via, role: 'sender' }, ...rest];
  return { ...facts, participants, authorTrusted: true };
}
