import type { ImportRun } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { useParams } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useImport, useImportItems } from './queries';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Address, Button, Page, Progress, Trouble, Waiting } from '../parts/basics';
import { bytes, count } from '../parts/numbers';
import { ConfirmUndo } from '../parts/ConfirmUndo';
import { OutcomeMark } from '../parts/OutcomeMark';
import { common } from '../parts/words';
import { importPage as words } from './words';

const UNDO = words.undoThisImport;
const EFFECT = words.emailsThatAreIn;

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
  if (run.isError) return <Page title={common.import}>{<Trouble error={run.error} />}</Page>;
  if (!run.data) return <Waiting what={words.looking} />;
  return (
    <Page title={words.importInto(run.data.mailbox)} purpose={words.howFarThisImport} wide>
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
    <section className="max-w-2xl" aria-label={words.progress}>
      <p className="mb-2 text-muted">
        {run.files.slice(0, 3).join(', ')}
        {run.files.length > 3 && words.andMore(run.files.length - 3)} · {bytes(run.totalBytes)}
      </p>
      {running && (
        <>
          <Progress label={common.import} done={share * 1000} total={1000} />
          <p className="tabular mt-1 flex flex-wrap items-center gap-x-4 gap-y-1" role="status">
            <span>
              {deciding
                ? words.decidingOf(counts.decided, counts.toDecide)
                : run.state === 'queued'
                  ? words.waitingForItsTurn
                  : words.readingMessage(read)}
            </span>
            {seconds > 1 && !deciding && <span className="text-muted">{words.aSecond(Math.round(read / seconds))}</span>}
            {seconds > 2 && !deciding && share > 0.02 && (
              <span className="text-muted">{words.aboutLeft((seconds / share) * (1 - share))}</span>
            )}
            <Button onClick={() => cancel.mutate()}>{common.cancel}</Button>
          </p>
          <Trouble error={cancel.error} />
        </>
      )}
      {!running && (
        <p role="status" className="font-medium">
          {run.state === 'done' && run.message === '' ? words.doneMessageReadIn(read, seconds) : run.message || run.state}
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
          [words.new, counts.new],
          [words.seenElsewhereToo, counts.otherSighting],
          [words.alreadyHere, counts.known],
          [words.unreadable, counts.unreadable],
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
    <section className="mt-8" aria-label={words.resultForEachMessage}>
      <div className="mb-2 flex flex-wrap items-center gap-1">
        <h2 className="mr-3 text-lg">{words.resultForEachMessage}</h2>
        {(
          [
            ['problems', words.readInPart(run.counts.withProblems)],
            ['unreadable', words.unreadableForUnreadable(run.counts.unreadable)],
            ['all', words.all],
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
      {items.data && items.data.items.length === 0 && <p className="py-3 text-muted">{common.none}</p>}
      {items.data && items.data.total > items.data.items.length && (
        <p className="mt-2 text-muted">{words.theFirstOf(items.data.items.length, items.data.total)}</p>
      )}
    </section>
  );
}
