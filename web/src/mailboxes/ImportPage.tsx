import type { ImportRun } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { useParams } from 'react-router';
import { call } from '../api/call';
import { useImport, useImportItems, useRefreshAll } from '../api/queries';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Address, Button, Page, Progress, Trouble, Waiting } from '../parts/basics';
import { bytes, count, counted, duration } from '../parts/numbers';
import { ConfirmUndo } from '../parts/ConfirmUndo';
import { OutcomeMark } from '../parts/OutcomeMark';

const UNDO = 'Undo this import';
const EFFECT =
  'Emails that are in no other mailbox or folder are removed from Fulvet, with the records that they alone created. Emails that were filed by hand since stay. Nothing changes in the mailbox itself.';

/** How far an import is, and what became of every message. */
export default function ImportPage() {
  const id = Number(useParams().id);
  const run = useImport(Number.isInteger(id) && id > 0 ? id : null);
  const refresh = useRefreshAll();
  const state = run.data?.state;
  const wasRunning = useRef(false);
  useEffect(() => {
    if (state === 'running' || state === 'queued') wasRunning.current = true;
    else if (state && wasRunning.current) {
      wasRunning.current = false;
      void refresh();
    }
  }, [state, refresh]);
  if (run.isError) return <Page title="Import">{<Trouble error={run.error} />}</Page>;
  if (!run.data) return <Waiting what="Looking" />;
  return (
    <Page title={`Import into ${run.data.mailbox}`} purpose="How far this import is, and what became of each email in its files." wide>
      <Summary run={run.data} />
      <Items run={run.data} />
    </Page>
  );
}

function Summary({ run }: { run: ImportRun }) {
  const { counts } = run;
  const cancel = useMutation({ mutationFn: () => call('cancelImport', { id: run.id }) });
  const [asking, setAsking] = useState(false);
  const running = run.state === 'queued' || run.state === 'running';
  const read = counts.new + counts.otherSighting + counts.known + counts.unreadable;
  const seconds = run.startedAt ? ((run.finishedAt ? Date.parse(run.finishedAt) : Date.now()) - Date.parse(run.startedAt)) / 1000 : 0;
  const deciding = run.phase === 'deciding';
  const share = deciding ? counts.decided / Math.max(1, counts.toDecide) : run.readBytes / Math.max(1, run.totalBytes);
  return (
    <section className="max-w-2xl" aria-label="Progress">
      <p className="mb-2 text-muted">
        {run.files.slice(0, 3).join(', ')}
        {run.files.length > 3 && ` and ${run.files.length - 3} more`} · {bytes(run.totalBytes)}
      </p>
      {running && (
        <>
          <Progress label="Import" done={share * 1000} total={1000} />
          <p className="tabular mt-1 flex flex-wrap items-center gap-x-4 gap-y-1" role="status">
            <span>
              {deciding
                ? `Deciding: ${count(counts.decided)} of ${count(counts.toDecide)}`
                : run.state === 'queued'
                  ? 'Waiting for its turn'
                  : `Reading: ${counted(read, 'message')}`}
            </span>
            {seconds > 1 && !deciding && <span className="text-muted">{count(Math.round(read / seconds))} a second</span>}
            {seconds > 2 && !deciding && share > 0.02 && (
              <span className="text-muted">about {duration((seconds / share) * (1 - share))} left</span>
            )}
            <Button onClick={() => cancel.mutate()}>Cancel</Button>
          </p>
          <Trouble error={cancel.error} />
        </>
      )}
      {!running && (
        <p role="status" className="font-medium">
          {run.state === 'done' && run.message === ''
            ? `Done: ${counted(read, 'message')} read in ${duration(seconds)}.`
            : run.message || run.state}
        </p>
      )}
      {run.undo !== null && (
        <p className="mt-2">
          <Button onClick={() => setAsking(true)}>{UNDO}</Button>
        </p>
      )}
      {asking && run.undo !== null && <ConfirmUndo step={run.undo} title={`${UNDO}?`} effect={EFFECT} onClose={() => setAsking(false)} />}
      <dl className="tabular mt-3 grid grid-cols-2 gap-x-6 gap-y-1 sm:grid-cols-4">
        {[
          ['New', counts.new],
          ['Seen elsewhere too', counts.otherSighting],
          ['Already here', counts.known],
          ['Unreadable', counts.unreadable],
        ].map(([label, value]) => (
          <div key={label} className="border-t border-line pt-1">
            <dd className="font-head text-xl font-semibold">{count(Number(value))}</dd>
            <dt className="text-sm text-muted">{label}</dt>
          </div>
        ))}
      </dl>
    </section>
  );
}

function Items({ run }: { run: ImportRun }) {
  const [only, setOnly] = useState<'all' | 'problems' | 'unreadable'>(run.counts.withProblems > 0 ? 'problems' : 'all');
  const items = useImportItems(
    run.id,
    only === 'problems' ? { problems: 'yes' } : only === 'unreadable' ? { result: 'unreadable' } : {},
    run.state === 'running',
  );
  const docket = useDecisionPanel();
  return (
    <section className="mt-8" aria-label="Result for each message">
      <div className="mb-2 flex flex-wrap items-center gap-1">
        <h2 className="mr-3 text-lg">Result for each message</h2>
        {(
          [
            ['problems', `Read in part (${count(run.counts.withProblems)})`],
            ['unreadable', `Unreadable (${count(run.counts.unreadable)})`],
            ['all', 'All'],
          ] as const
        ).map(([value, label]) => (
          <Button key={value} kind={only === value ? 'plain' : 'quiet'} aria-pressed={only === value} onClick={() => setOnly(value)}>
            {label}
          </Button>
        ))}
      </div>
      <Trouble error={items.error} />
      <ul className="divide-y divide-line border-y border-line">
        {items.data?.items.map((item) => (
          <li key={item.position}>
            <button
              type="button"
              disabled={item.emailId === null}
              className="flex w-full items-baseline gap-3 px-1 py-1 text-left hover:bg-sunk disabled:hover:bg-transparent"
              onClick={() => item.emailId !== null && docket.open(item.emailId)}
            >
              <span className="tabular w-14 shrink-0 text-right text-muted">{item.position}</span>
              <span className="flex w-40 shrink-0 items-center gap-2">
                {item.result !== 'unreadable' && <OutcomeMark outcome={item.outcome} />}
                {item.result}
              </span>
              <span className="min-w-0 grow">
                {item.problems.map((problem) => (
                  <span key={problem.code + problem.message} className="block text-ochre">
                    {problem.message}
                  </span>
                ))}
                <Address className="text-muted">{item.file}</Address>
              </span>
            </button>
          </li>
        ))}
      </ul>
      {items.data && items.data.items.length === 0 && <p className="py-3 text-muted">None.</p>}
      {items.data && items.data.total > items.data.items.length && (
        <p className="mt-2 text-muted">
          The first {count(items.data.items.length)} of {count(items.data.total)}.
        </p>
      )}
    </section>
  );
}
