import type { Trial, TrialSummary } from '@fulvet/contract';
import { useTrialMade, useTryAgain } from './queries';
import { Trouble } from '../parts/basics';
import { count, counted } from '../parts/numbers';

/** Records that are there stay when a draft is put live; what it alone would create is another question. */
export function BeforeStay({ trial }: { trial: Trial }) {
  const again = useTryAgain(trial);
  return (
    <>
      <span className="text-muted">; those created before stay</span>
      {trial.isDraft && (
        <button
          type="button"
          className="ml-2 text-spruce hover:underline disabled:text-muted"
          title="Which of the records that mail created would this draft create?"
          disabled={again.isPending}
          onClick={() => again.mutate({ name: `${trial.name}, without what mail created`.slice(0, 100), withoutMade: true })}
        >
          Try it without them
        </button>
      )}
      <Trouble error={again.error} />
    </>
  );
}

/** The records that mail created and that the draft would not, each opening the emails that it would lose. */
export function NotAgain({ trial, onOpen }: { trial: Trial; onOpen: (record: string) => void }) {
  const made = useTrialMade(trial.id, true);
  const found = made.data;
  return (
    <section aria-label="Records that would not be created" className="mt-8">
      <h2 className="mb-1 text-lg">{counted(trial.made?.notAgain ?? 0, 'record')} would not be created</h2>
      <Trouble error={made.error} />
      <ul className="max-h-72 divide-y divide-line overflow-y-auto border-y border-line">
        {found?.records.map((record) => (
          <li key={record.key}>
            <button type="button" className="flex w-full gap-3 px-1 py-1 text-left hover:bg-sunk" onClick={() => onOpen(record.key)}>
              <span className="w-16 shrink-0 text-sm text-muted">{record.key.slice(0, record.key.indexOf(':'))}</span>
              <span className="min-w-0 grow truncate">
                {record.name} <span className="font-mono text-[0.92em] text-muted">{record.via}</span>
              </span>
              <span className="tabular shrink-0 text-sm text-muted">{counted(record.emails, 'email')} under it</span>
            </button>
          </li>
        ))}
      </ul>
      {found && found.total > found.records.length && (
        <p className="mt-1 text-muted">
          Those with the most emails, {count(found.records.length)} of {count(found.total)}.
        </p>
      )}
    </section>
  );
}

/** The records that would be created, with how sure their names are. */
export function Created({ summary }: { summary: TrialSummary }) {
  if (summary.created.length === 0) return null;
  return (
    <details className="mt-6">
      <summary className="text-lg font-semibold">{counted(summary.createdCount, 'record')} would be created</summary>
      <ul className="mt-1 max-h-72 divide-y divide-line overflow-y-auto border-y border-line">
        {summary.created.map((item) => (
          <li key={`${item.kind}${item.via}`} className="flex gap-3 px-1 py-1">
            <span className="w-16 text-sm text-muted">{item.kind}</span>
            <span className="min-w-0 grow truncate">
              {item.name} <span className="font-mono text-[0.92em] text-muted">{item.via}</span>
            </span>
            {item.confidence < 1 && <span className="text-sm text-muted">name {Math.round(item.confidence * 100)} % sure</span>}
            {item.like && <span className="text-sm text-ochre">like {item.like}</span>}
          </li>
        ))}
      </ul>
    </details>
  );
}
