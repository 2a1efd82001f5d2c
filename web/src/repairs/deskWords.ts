import type { DeskCase } from '@fulvet/contract';
import { counted } from '../parts/numbers';

/** The question in words. */
export function questionWords({ about, domain, candidates }: Pick<DeskCase, 'about' | 'domain' | 'candidates'>): string {
  switch (about) {
    case 'deal':
      return `Which of these ${candidates.length} deals?`;
    case 'account':
      return `Which account of ${domain ?? 'this domain'}?`;
    case 'filing':
      return candidates.length > 0
        ? `An external person sent it to the filing address of this record. File it there?`
        : `No record has the filing address ${domain ?? ''}. Where does it belong?`;
    case 'hold':
      return domain ? `A rule asks: ${domain}` : 'A rule asks a person where it belongs.';
    case 'person':
      return candidates.length > 0
        ? `Is ${domain ?? 'this address'} another address of ${candidates.map((candidate) => candidate.name).join(' or ')}?`
        : `Is ${domain ?? 'this person'} to become a record?`;
  }
}

/** What one answer settles. */
export function reachWords({
  count,
  conversations,
  about,
  candidates,
}: Pick<DeskCase, 'count' | 'conversations' | 'about' | 'candidates'>): string {
  if (about === 'person' && candidates.length > 0)
    return `${count === 1 ? 'One email asks' : `${counted(count, 'email')} ask`}; the answer applies to all mail with this address.`;
  if (count === 1) return 'One email; what follows in its conversation goes the same way.';
  const emails = counted(count, 'email');
  if (about === 'person' || conversations > 1) return `One answer for ${emails} in ${counted(conversations, 'conversation')}.`;
  return `One answer for these ${emails} of one conversation.`;
}
