import { VERDICT_WORDS } from '@fulvet/core';
import type { Trial, TrialSummary } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { ReactNode } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { call } from '../api/call';
import { useTrial } from './queries';
import { useTrials } from '../api/queries';
import { Button, Page, Progress, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { count, counted } from '../parts/numbers';
import { Option, Select } from '../parts/Select';
import { STEPS } from '../parts/steps';
import { useAddressBar } from '../parts/useAddressBar';
import { TrialEmails } from './TrialEmails';
import { TrialNext } from './TrialNext';
import { BeforeStay, Created, NotAgain } from './TrialRecords';
import { Matrix } from './TrialMatrix';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { trialPage as words } from './words';

const FILTERS = ['before', 'after', 'step', 'record', 'seen'] as const;

/** What a trial found: numbers first, each opening the emails behind it. */
export default function TrialPage() {
  const id = Number(useParams().id);
  const trial = useTrial(id);
  if (trial.isPending) return <Waiting what={words.openingTheTrial} />;
  if (trial.isError) return <Page title={words.trial}>{<Trouble error={trial.error} />}</Page>;
  return <Loaded key={id} trial={trial.data} />;
}

function Loaded({ trial }: { trial: Trial }) {
  const go = useNavigate();
  const running = trial.state === 'queued' || trial.state === 'running';
  const cancel = useMutation({ mutationFn: () => call('cancelTrial', { id: trial.id }) });
  const remove = useMutation({ mutationFn: () => call('deleteTrial', { id: trial.id }), onSuccess: () => go('/trials') });
  return (
    <Page
      purpose={words.whatTheDraftWould}
      title={
        <>
          <Link to="/trials" className="block text-sm font-normal text-muted hover:underline">
            {words.trials}
          </Link>
          {trial.name}
        </>
      }
      wide
      aside={
        !running && (
          <span className="flex flex-wrap items-center gap-3 text-sm">
            <a className="text-spruce hover:underline" href={`/api/v1/trials/${trial.id}/export`}>
              {words.csv}
            </a>
            <a className="text-spruce hover:underline" href={`/api/v1/trials/${trial.id}/export?format=jsonl`}>
              {words.jsonLines}
            </a>
            <Button kind="quiet" onClick={() => remove.mutate()}>
              {common.remove}
            </Button>
          </span>
        )
      }
    >
      {running && (
        <div className="max-w-xl" role="status">
          <Progress label={words.trial} done={trial.done} total={trial.total} />
          <p className="tabular mt-1 flex items-center gap-3 text-muted">
            {trial.state === 'queued' ? words.waitingForItsTurn : words.ofEmailDecided(trial.done, trial.total)}
            <Button onClick={() => cancel.mutate()}>{common.cancel}</Button>
          </p>
        </div>
      )}
      <Trouble error={cancel.error ?? remove.error} />
      {trial.state === 'failed' && <Trouble error={new Error(trial.message)} />}
      {trial.state === 'cancelled' && <p className="text-muted">{words.cancelledNothingWasChanged}</p>}
      {trial.summary && !running && <Found trial={trial} summary={trial.summary} />}
    </Page>
  );
}

function Found({ trial, summary }: { trial: Trial; summary: TrialSummary }) {
  const [params, set] = useAddressBar();
  const filter = Object.fromEntries(FILTERS.flatMap((name) => (params.get(name) ? [[name, params.get(name) ?? '']] : [])));
  const open = (next: Partial<Record<(typeof FILTERS)[number], string>>): void =>
    set({ ...Object.fromEntries(FILTERS.map((name) => [name, ''])), ...next });
  const [against, setAgainst] = useState('');
  const others = useTrials().data?.trials.filter((item) => item.id !== trial.id && item.state === 'done') ?? [];
  const other = others.find((item) => String(item.id) === against)?.summary ?? null;
  return (
    <>
      <p className="mb-4 text-lg">
        {filled(words.ofWouldChange, {
          emails: counted(summary.emails, 'email'),
          changed: <strong className="tabular">{count(summary.changed)}</strong>,
        })}
        {other && <Delta now={summary.changed} was={other.changed} />}.
        {trial.withoutMade && <span className="block max-w-prose text-base text-muted">{words.decidedAsIfThe}</span>}
      </p>
      <TrialNext trial={trial} />
      <div className="grid gap-x-10 gap-y-8 xl:grid-cols-2">
        <Matrix summary={summary} other={other} active={filter} onOpen={open} />
        <section aria-label={words.whatElseWouldChange}>
          <h2 className="mb-1 text-lg">{words.whatItWouldMean}</h2>
          <ul className="divide-y divide-line border-y border-line">
            <Meaning number={summary.newlySeen} warn onOpen={() => open({ seen: 'newly' })}>
              {words.wouldNewlyBeSeen}
            </Meaning>
            <Meaning number={summary.noLongerSeen} onOpen={() => open({ seen: words.noLonger })}>
              {words.wouldNoLongerBe}
            </Meaning>
            <Meaning number={summary.waiting} onOpen={() => open({ after: 'waiting' })}>
              {words.wouldWaitForA}
              {other && <Delta now={summary.waiting} was={other.waiting} />}
            </Meaning>
            {trial.made && (
              <li className="px-1 py-1.5">
                <strong className={clsx('tabular inline-block w-14 text-right', trial.made.notAgain > 0 && 'text-brick')}>
                  {count(trial.made.notAgain)}
                </strong>{' '}
                {words.ofTheRecordThat(trial.made.again + trial.made.notAgain)}
              </li>
            )}
            <li className="px-1 py-1.5">
              <strong className="tabular inline-block w-14 text-right">{count(summary.createdCount)}</strong>{' '}
              {trial.withoutMade ? words.otherRecordsWouldBe : words.recordsWouldBeCreated}
              {!trial.withoutMade && <BeforeStay trial={trial} />}
              {summary.created.some((item) => item.like) && (
                <span className="text-ochre">{words.ofThemLikeOne(summary.created.filter((item) => item.like).length)}</span>
              )}
            </li>
            <li className="px-1 py-1.5">
              <strong className="tabular inline-block w-14 text-right">{count(sum(summary.won))}</strong>{' '}
              {filled(words.filingsWonLost, { lost: <strong className="tabular">{count(sum(summary.lost))}</strong> })}
            </li>
          </ul>
          <label className="mt-3 flex max-w-sm items-center gap-2 text-sm">
            <span className="whitespace-nowrap text-muted">{words.compareWith}</span>
            <Select value={against} onValue={(value) => setAgainst(value)}>
              <Option value="">{words.noOtherTrial}</Option>
              {others.map((item) => (
                <Option key={item.id} value={item.id}>
                  {item.name}
                </Option>
              ))}
            </Select>
          </label>
        </section>
        <Steps summary={summary} onOpen={(step) => open({ step })} />
        <Records summary={summary} onOpen={(record) => open({ record })} />
      </div>
      {trial.made && trial.made.notAgain > 0 && <NotAgain trial={trial} onOpen={(record) => open({ record })} />}
      <Created summary={summary} />
      <TrialEmails trial={trial} filter={filter} onAll={() => open({})} />
    </>
  );
}

const sum = (counts: Record<string, number>): number => Object.values(counts).reduce((all, value) => all + value, 0);

function Delta({ now, was }: { now: number; was: number }) {
  const more = now - was;
  return <span className="text-sm text-muted"> {words.theOther(more === 0 ? words.asManyAs : words.against(more, Math.abs(more)))}</span>;
}

function Meaning({ number, warn = false, onOpen, children }: { number: number; warn?: boolean; onOpen: () => void; children: ReactNode }) {
  return (
    <li>
      <button type="button" disabled={number === 0} className="w-full px-1 py-1.5 text-left enabled:hover:bg-sunk" onClick={onOpen}>
        <strong className={clsx('tabular inline-block w-14 text-right', warn && number > 0 && 'text-brick')}>{count(number)}</strong>{' '}
        {children}
      </button>
    </li>
  );
}

function Steps({ summary, onOpen }: { summary: TrialSummary; onOpen: (step: string) => void }) {
  return (
    <section aria-label={words.steps}>
      <h2 className="mb-1 text-lg">{words.atEachStep}</h2>
      <ul className="divide-y divide-line border-y border-line">
        {STEPS.map(({ step, title }) => (
          <li key={step} className="flex flex-wrap items-baseline gap-x-4 px-1 py-1.5">
            <button
              type="button"
              className="w-20 text-left font-medium hover:underline"
              title={words.emailsThatFirstDiffer}
              onClick={() => onOpen(step)}
            >
              {title}
            </button>
            {Object.entries(summary.steps[step] ?? {})
              .sort(([, value], [, other]) => other - value)
              .map(([verdict, number]) => (
                <span key={verdict} className="tabular">
                  {count(number)} <span className="text-muted">{verdictWords(verdict)}</span>
                </span>
              ))}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Records({ summary, onOpen }: { summary: TrialSummary; onOpen: (record: string) => void }) {
  if (summary.records.length === 0) return null;
  return (
    <section aria-label={common.records}>
      <h2 className="mb-1 text-lg">{words.filingsByRecord}</h2>
      <ul className="max-h-64 divide-y divide-line overflow-y-auto border-y border-line">
        {summary.records.map((record) => (
          <li key={record.key}>
            <button type="button" className="flex w-full gap-3 px-1 py-1 text-left hover:bg-sunk" onClick={() => onOpen(record.key)}>
              <span className="min-w-0 grow truncate">
                {record.name} <span className="text-sm text-muted">{record.key.slice(0, record.key.indexOf(':'))}</span>
              </span>
              <span className="tabular w-14 text-right text-moss">{record.won > 0 && `+${count(record.won)}`}</span>
              <span className="tabular w-14 text-right text-brick">{record.lost > 0 && `−${count(record.lost)}`}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What a step decided, as decisions call it; a trial of an older version may know others. */
const verdictWords = (verdict: string): string => ((VERDICT_WORDS as Readonly<Record<string, string>>)[verdict] ?? verdict).toLowerCase();
