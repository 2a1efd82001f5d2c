import type { DomainRow, SuggestionRow } from '@fulvet/contract';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useDraft } from '../rulebook/queries';
import { Address, Button, Empty, Page, TextInput, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { count, counted, percent } from '../parts/numbers';
import { STOPS } from '../parts/stops';
import { useAddressBar } from '../parts/useAddressBar';
import { useUndo } from '../parts/useUndo';
import { RuleAccuracy } from './RuleAccuracy';
import { DraftBar } from '../rulebook/DraftBar';

/** What stays unmatched and what is junk, by volume, and rules that past mail suggests. */
export default function TuningPage() {
  const draft = useDraft();
  return (
    <Page title="Tuning" wide>
      {draft.data && <DraftBar draft={draft.data} />}
      <Suggestions />
      <RuleAccuracy />
      <Domains />
    </Page>
  );
}

function Suggestions() {
  const found = useQuery({
    queryKey: ['suggestions'],
    queryFn: ({ signal }) => call('listSuggestions', {}, signal),
  });
  return (
    <section aria-label="Suggestions" className="mb-8">
      <h2 className="text-lg">Suggestions from past mail</h2>
      <p className="mb-2 text-sm text-muted">
        Computed from the mail of 90 days and the records; each was tried on the mail that it is about. Nothing takes effect before it is
        put live.
      </p>
      {found.isPending && <Waiting what="Trying out suggestions" />}
      <Trouble error={found.error} />
      {found.data?.suggestions.length === 0 && <p className="text-muted">Nothing: the rules take the mail as it comes.</p>}
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
  const take = useMutation({
    mutationFn: () => call('takeSuggestion', { body: { code: suggestion.code, about: suggestion.about } }),
    onSuccess: async (draft) => {
      client.setQueryData(['draft'], draft);
      for (const key of ['suggestions', 'draft-check', 'trials']) await client.invalidateQueries({ queryKey: [key] });
      if (suggestion.account) {
        await refresh();
        notice(`${suggestion.about} now belongs to ${suggestion.account.name}.`, undo(draft.undo));
      } else notice('It is in the draft. Nothing has taken effect yet.');
    },
  });
  const { effect } = suggestion;
  const stop = STOPS.find((item) => item.stop === suggestion.stop);
  return (
    <li className="grid items-baseline gap-x-4 gap-y-1 px-1 py-2 md:grid-cols-[5rem_minmax(0,1fr)_18rem_auto]">
      <span className="text-sm font-medium text-muted">{stop?.title}</span>
      <span className="min-w-0 break-words">{suggestion.because}</span>
      <span className="tabular text-sm">
        {effectWords(effect)}
        <span className="block text-muted">of the {counted(effect.emails, 'newest email')} it is about</span>
      </span>
      <span>
        <Button disabled={take.isPending} onClick={() => take.mutate()}>
          {TAKE_LABELS[suggestion.does]}
        </Button>
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

const SHOWS = [
  ['unmatched', 'Unfiled or waiting'],
  ['junk', 'Kept out and machine mail'],
  ['all', 'Everything'],
] as const;

function Domains() {
  const [params, set] = useAddressBar();
  const show = SHOWS.find(([value]) => value === params.get('show'))?.[0] ?? 'unmatched';
  const [text, setText] = useState('');
  const asked = useDeferredValue(text.trim());
  const found = useQuery({
    queryKey: ['domain-use', show, asked],
    queryFn: ({ signal }) => call('listDomainUse', { show, text: asked, limit: 100 }, signal),
    placeholderData: keepPreviousData,
  });
  const rows = found.data?.rows ?? [];
  return (
    <section aria-label="Domains by volume">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <h2 className="mr-3 text-lg">Who it is from and to</h2>
        <div role="group" aria-label="Show" className="flex flex-wrap gap-1">
          {SHOWS.map(([value, label]) => (
            <Button
              key={value}
              kind={show === value ? 'plain' : 'quiet'}
              aria-pressed={show === value}
              onClick={() => set({ show: value })}
            >
              {label}
            </Button>
          ))}
        </div>
        <TextInput
          aria-label="Find a domain"
          placeholder="Find a domain"
          className="w-48!"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <span className="tabular text-sm text-muted">
          {found.data &&
            (rows.length < found.data.total
              ? `the first ${rows.length} of ${count(found.data.total)}`
              : counted(found.data.total, 'domain'))}{' '}
          in 90 days
        </span>
      </div>
      <Trouble error={found.error} />
      {found.data?.total === 0 && <Empty title="Nothing here">No domain fits what you chose.</Empty>}
      {rows.length > 0 && (
        <div className="overflow-x-auto">
          <table className="tabular w-full min-w-[52rem] text-sm">
            <thead className="text-left text-muted">
              <tr>
                <th className="py-1 pr-3 font-normal">domain</th>
                <th className="pr-3 text-right font-normal">emails</th>
                <th className="pr-3 text-right font-normal">received</th>
                <th className="pr-3 text-right font-normal">sent</th>
                <th className="pr-3 text-right font-normal">automatic</th>
                <th className="w-40 pr-3 font-normal">outcome</th>
                <th className="pr-3 font-normal">by the rule</th>
                <th className="pr-3 text-right font-normal">last</th>
                <td />
              </tr>
            </thead>
            <tbody className="divide-y divide-line border-y border-line">
              {rows.map((row) => (
                <DomainLine key={row.domain} row={row} />
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function DomainLine({ row }: { row: DomainRow }) {
  const go = useNavigate();
  return (
    <tr>
      <td className="max-w-60 py-1.5 pr-3">
        <Link className="hover:underline" to={`/all-mail?domain=${encodeURIComponent(row.domain)}`}>
          <Address>{row.domain}</Address>
        </Link>
        {row.accounts.length > 0 && <span className="block text-muted">{row.accounts.join(', ')}</span>}
      </td>
      <td className="pr-3 text-right">{count(row.emails)}</td>
      <td className="pr-3 text-right">{count(row.received)}</td>
      <td className="pr-3 text-right">{count(row.sent)}</td>
      <td className="pr-3 text-right">{percent(row.machine, row.emails)}</td>
      <td className="pr-3">
        <OutcomeBar row={row} />
      </td>
      <td className="max-w-52 truncate pr-3 text-muted" title={row.rule ?? ''}>
        {row.rule ?? '–'}
      </td>
      <td className="pr-3 text-right text-muted">
        <Moment at={row.last} />
      </td>
      <td className="text-right whitespace-nowrap">
        <Button kind="quiet" onClick={() => void go(`/keep-out?rule=${encodeURIComponent(row.domain)}`)}>
          Make a rule …
        </Button>
      </td>
    </tr>
  );
}

/** Outcomes as lengths of one bar, said in words for those who do not see it. */
function OutcomeBar({ row }: { row: DomainRow }) {
  const parts = [
    ['filed', row.filed, 'bg-spruce'],
    ['waiting', row.waiting, 'bg-focus'],
    ['unfiled', row.loose, 'bg-muted/50'],
    ['kept out', row.keptOut, 'bg-brick/70'],
  ] as const;
  const words = parts.filter(([, number]) => number > 0).map(([name, number]) => `${count(number)} ${name}`);
  return (
    <span title={words.join(', ')}>
      <span aria-hidden className="flex h-1.5 w-full overflow-hidden rounded-full bg-sunk">
        {parts.map(([name, number, colour]) => (
          <span key={name} className={clsx('h-full', colour)} style={{ width: `${(number / row.emails) * 100}%` }} />
        ))}
      </span>
      <span className="text-xs text-muted">{words.join(', ')}</span>
    </span>
  );
}
