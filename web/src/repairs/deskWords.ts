import type { DeskCase } from '@fulvet/contract';
import { counted } from '../parts/numbers';
import { common } from '../parts/words';
import { deskWords as texts } from './words';

/** The question in words. */
export function questionWords({ about, domain, candidates }: Pick<DeskCase, 'about' | 'domain' | 'candidates'>): string {
  switch (about) {
    case 'deal':
      return texts.whichOfTheseDeals(candidates.length);
    case 'account':
      return texts.whichAccountOf(domain ?? texts.thisDomain);
    case 'filing':
      return candidates.length > 0 ? texts.anExternalPersonSent : texts.noRecordHasThe(domain ?? '');
    case 'hold':
      return domain ? texts.aRuleAsks(domain) : texts.aRuleAsksA;
    case 'person':
      return candidates.length > 0
        ? texts.isAnotherAddressOf(domain ?? texts.thisAddress, candidates.map((candidate) => candidate.name).join(' or '))
        : texts.isToBecomeA(domain ?? common.thisPerson);
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
    return texts.theAnswerAppliesTo(count === 1 ? texts.oneEmailAsks : texts.emailAsk(count));
  if (count === 1) return texts.oneEmailWhatFollows;
  const emails = counted(count, 'email');
  if (about === 'person' || conversations > 1) return texts.oneAnswerForIn(emails, conversations);
  return texts.oneAnswerForThese(emails);
}
