import type { SuggestionRow } from '@fulvet/contract';
import { ruleWords } from '@fulvet/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answersOf, asked, answerKey } from '../api/asked';
import { useNavigate } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button, Trouble, Waiting } from '../parts/basics';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { STEPS } from '../parts/steps';
import { useUndo } from '../parts/useUndo';
import { newRule } from '../rulebook/editor/ruleFromAddress';
import type { AnyRule } from '../rulebook/editor/anyRule';
import { common } from '../parts/words';
import { suggestions as texts } from './words';

/** Rules and changes that past mail suggests, each with what it would change. */
export function Suggestions() {
  const found = useQuery(asked('listSuggestions'));
  return (
    <section aria-label={texts.suggestions} className="mb-8">
      <h2 className="text-lg">{texts.suggestionsFromPastMail}</h2>
      <p className="mb-2 text-sm text-muted">{texts.computedFromTheMail}</p>
      {found.isPending && <Waiting what={texts.tryingOutSuggestions} />}
      <Trouble error={found.error} />
      {found.data?.suggestions.length === 0 && <p className="text-muted">{texts.nothingToSuggestNow}</p>}
      <ul className="divide-y divide-line border-y border-line empty:border-0">
        {found.data?.suggestions.map((item) => (
          <SuggestionLine key={item.code + item.about} suggestion={item} />
        ))}
      </ul>
    </section>
  );
}

function SuggestionLine({ suggestion }: { suggestion: SuggestionRow }) {
  const client = useQueryClient();
  const notice = useNotice();
  const refresh = useRefreshAll();
  const undo = useUndo();
  const go = useNavigate();
  const take = useMutation({
    mutationFn: () => call('takeSuggestion', { body: { code: suggestion.code, about: suggestion.about } }),
    onSuccess: async (draft) => {
      client.setQueryData(answerKey('getDraft'), draft);
      await client.invalidateQueries(answersOf('listSuggestions', 'checkDraft', 'listTrials'));
      if (suggestion.account) {
        await refresh();
        notice(texts.nowBelongsTo(suggestion.about, suggestion.account.name), undo(draft.undo));
      } else notice(texts.itIsInThe);
    },
  });
  const { effect } = suggestion;
  const step = STEPS.find((item) => item.step === suggestion.step);
  const rule = suggestion.rule === null ? null : { ...newRule(suggestion.step), ...(suggestion.rule as Partial<AnyRule>) };
  return (
    <li className="grid items-baseline gap-x-4 gap-y-1 px-1 py-2 md:grid-cols-[5rem_minmax(0,1fr)_18rem_auto]">
      <span className="text-sm font-medium text-muted">{step?.title}</span>
      <span className="min-w-0 break-words">
        {suggestion.because}
        {rule && <span className="mt-0.5 block text-muted">{texts.rule(capital(ruleWords(rule)))}</span>}
      </span>
      <span className="tabular text-sm">
        {effectWords(effect)}
        <span className="block text-muted">{texts.ofTheNewestEmail(effect.emails)}</span>
      </span>
      <span className="flex flex-wrap items-start gap-1">
        <Button disabled={take.isPending} onClick={() => take.mutate()}>
          {TAKE_LABELS[suggestion.does]}
        </Button>
        {rule && step && (
          <Button kind="quiet" onClick={() => void go(step.path, { state: { newRule: rule } })}>
            {texts.editFirst}
          </Button>
        )}
        <Trouble error={take.error} />
      </span>
    </li>
  );
}

const TAKE_LABELS: Record<SuggestionRow['does'], string> = {
  rule: common.addToTheDraft,
  addForm: texts.addTheFormTo,
  addDomain: texts.addTheDomainTo,
};

function effectWords({ changed, filed, unfiled, keptOut, created }: SuggestionRow['effect']): string {
  if (changed === 0) return texts.wouldChangeNothingNow;
  const parts = [
    ...(filed > 0 ? [texts.newlyFiled(filed)] : []),
    ...(keptOut > 0 ? [texts.keptOut(keptOut)] : []),
    ...(unfiled > keptOut ? [texts.noLongerFiled(unfiled - keptOut)] : []),
    ...(created > 0 ? [counted(created, 'record created', 'records created')] : []),
  ];
  return texts.emailWouldChange(changed, parts.length > 0 ? `: ${parts.join(', ')}` : '');
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
