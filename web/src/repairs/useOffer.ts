import type { RepairResult, Session } from '@fulvet/contract';
import type { RuleStep } from '@fulvet/core';
import { useQueryClient } from '@tanstack/react-query';
import { answersOf, answerKey } from '../api/asked';
import { useNotice } from '../parts/Notices';
import { addToDraft } from '../rulebook/addToDraft';
import { common } from '../parts/words';
import { useOffer as words } from './words';

type Offer = NonNullable<RepairResult['offer']>;

/** Offers the rule that would do what was done by hand: an administrator puts it into the draft, others learn who can. */
export function useOffer(): (offer: Offer) => void {
  const client = useQueryClient();
  const notice = useNotice();
  return (offer) => {
    const isAdmin = client.getQueryData<Session>(answerKey('getSession'))?.user?.role === 'admin';
    if (!isAdmin) {
      notice(words.anAdministratorFindsThe(offer.because));
      return;
    }
    notice(words.aRuleCanDo(offer.because), { label: common.addToTheDraft, run: () => putIntoDraft(offer) });
  };

  async function putIntoDraft({ step, rule }: Offer): Promise<void> {
    client.setQueryData(answerKey('getDraft'), await addToDraft(step as RuleStep, rule as object));
    await client.invalidateQueries(answersOf('checkDraft'));
    notice(words.itIsInThe);
  }
}
