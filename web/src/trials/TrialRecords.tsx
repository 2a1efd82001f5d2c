import type { Trial, TrialSummary } from '@fulvet/contract';
import { useTrialMade, useTryAgain } from './queries';
import { Trouble } from '../parts/basics';
import { trialRecords as words } from './words';

/** Records that are there stay when a draft is put live; what it alone would create is another question. */
export function BeforeStay({ trial }: { trial: Trial }) {
  const again = useTryAgain(trial);
  return (
    <>
      <span className="text-muted">{words.thoseCreatedBeforeStay}</span>
      {trial.isDraft && (
        <button
          type="button"
          className="ml-2 text-spruce hover:underline disabled:text-muted"
          title={words.whichOfTheRecords}
          disabled={again.isPending}
          onClick={() => again.mutate({ name: words.withoutWhatMailCreated(trial.name).slice(0, 100), withoutMade: true })}
        >
          {words.tryItWithoutThem}
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
    <section aria-label={words.recordsThatWouldNot} className="mt-8">
      <h2 className="mb-1 text-lg">{words.recordWouldNotBe(trial.made?.notAgain ?? 0)}</h2>
      <Trouble error={made.error} />
      <ul className="max-h-72 divide-y divide-line overflow-y-auto border-y border-line">
        {found?.records.map((record) => (
          <li key={record.key}>
            <button type="button" className="flex w-full gap-3 px-1 py-1 text-left hover:bg-sunk" onClick={() => onOpen(record.key)}>
              <span className="w-16 shrink-0 text-sm text-muted">{record.key.slice(0, record.key.indexOf(':'))}</span>
              <span className="min-w-0 grow truncate">
                {record.name} <span className="font-mono text-[0.92em] text-muted">{record.via}</span>
              </span>
              <span className="tabular shrink-0 text-sm text-muted">{words.emailUnderIt(record.emails)}</span>
            </button>
          </li>
        ))}
      </ul>
      {found && found.total > found.records.length && (
        <p className="mt-1 text-muted">{words.thoseWithTheMost(found.records.length, found.total)}</p>
      )}
    </section>
  );
}

/** The records that would be created, with how sure their names are. */
export function Created({ summary }: { summary: TrialSummary }) {
  if (summary.created.length === 0) return null;
  return (
    <details className="mt-6">
      <summary className="text-lg font-semibold">{words.recordWouldBeCreated(summary.createdCount)}</summary>
      <ul className="mt-1 max-h-72 divide-y divide-line overflow-y-auto border-y border-line">
        {summary.created.map((item) => (
          <li key={`${item.kind}${item.via}`} className="flex gap-3 px-1 py-1">
            <span className="w-16 text-sm text-muted">{item.kind}</span>
            <span className="min-w-0 grow truncate">
              {item.name} <span className="font-mono text-[0.92em] text-muted">{item.via}</span>
            </span>
            {item.confidence < 1 && <span className="text-sm text-muted">{words.nameSure(Math.round(item.confidence * 100))}</span>}
            {item.like && <span className="text-sm text-ochre">{words.like(item.like)}</span>}
          </li>
        ))}
      </ul>
    </details>
  );
}
