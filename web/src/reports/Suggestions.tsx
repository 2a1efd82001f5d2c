import type { SuggestionRow } from '@fulvet/contract';
import { ruleWords } from '@fulvet/core';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answersOf, asked, answerKey } from '../api/asked';
import { useNavigate } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button, Trouble, Waiting } from '../parts/basics';
import { useNotice } from '../parts/Notices';
import { count, counted } from '../parts/numbers';
import { STEPS } from '../parts/steps';
import { useUndo } from '../parts/useUndo';
import { newRule } from '../rulebook/editor/ruleFromAddress';
import type { AnyRule } from '../rulebook/editor/anyRule';

/** Rules and changes that past mail suggests, each with what it would change. */
export function Suggestions() {
  const found = useQuery(asked('listSuggestions'));
  return (
    <section aria-label="Suggestions" className="mb-8">
      <h2 className="text-lg">Suggestions from past mail</h2>
      <p className="mb-2 text-sm text-muted">
        Computed from the mail of 90 days and the records; each was tried on the mail that it is about. Nothing takes effect before it is
        put live.
      </p>
      {found.isPending && <Waiting what="Trying out suggestions" />}
      <Trouble error={found.error} />
      {found.data?.suggestions.length === 0 && <p className="text-muted">Nothing to suggest now.</p>}
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
        notice(`${suggestion.about} now belongs to ${suggestion.account.name}.`, undo(draft.undo));
      } else notice('It is in the draft. Nothing has taken effect yet.');
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
        {rule && <span className="mt-0.5 block text-muted">Rule: {capital(ruleWords(rule))}</span>}
      </span>
      <span className="tabular text-sm">
        {effectWords(effect)}
        <span className="block text-muted">of the {counted(effect.emails, 'newest email')} it is about</span>
      </span>
      <span className="flex flex-wrap items-start gap-1">
        <Button disabled={take.isPending} onClick={() => take.mutate()}>
          {TAKE_LABELS[suggestion.does]}
        </Button>
        {rule && step && (
          <Button kind="quiet" onClick={() => void go(step.path, { state: { newRule: rule } })}>
            Edit first …
          </Button>
        )}
        <Trouble error={take.error} />
      </span>
    </li>
  );
}

const TAKE_LABELS: Record<SuggestionRow['does'], string> = {
  rule: 'Add to the draft',
  addForm: 'Add the form to the draft',
  addDomain: 'Add the domain to the account',
};

function effectWords({ changed, filed, unfiled, keptOut, created }: SuggestionRow['effect']): string {
  if (changed === 0) return 'would change nothing now';
  const parts = [
    ...(filed > 0 ? [`${count(filed)} newly filed`] : []),
    ...(keptOut > 0 ? [`${count(keptOut)} kept out`] : []),
    ...(unfiled > keptOut ? [`${count(unfiled - keptOut)} no longer filed`] : []),
    ...(created > 0 ? [counted(created, 'record created', 'records created')] : []),
  ];
  return `${counted(changed, 'email')} would change${parts.length > 0 ? `: ${parts.join(', ')}` : ''}`;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
