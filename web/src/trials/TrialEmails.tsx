import type { Trial, TrialRow } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useState } from 'react';
import { useTrialRows } from './queries';
import { Button, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { counted } from '../parts/numbers';
import { OutcomeMark } from '../parts/OutcomeMark';
import { seenBy } from '../parts/seenBy';
import { STEPS } from '../parts/steps';
import { common } from '../parts/words';
import { trialEmails as texts } from './words';

/** The emails behind a number, each with both decisions side by side. */
export function TrialEmails({ trial, filter, onAll }: { trial: Trial; filter: Record<string, string>; onAll: () => void }) {
  const rows = useTrialRows(trial.id, filter, true);
  const [open, setOpen] = useState<number | null>(null);
  const said = Object.values(filter).length > 0;
  return (
    <section aria-label={texts.emailsBehindTheNumbers} aria-busy={rows.isPlaceholderData} className="mt-8">
      <div className="mb-1 flex items-center gap-3">
        <h2 className="text-lg">
          {rows.data ? counted(rows.data.total, 'email') : common.emails}
          {said ? texts.behindThatNumber : texts.thatWouldChange}
        </h2>
        {said && <Button onClick={onAll}>{texts.showAll}</Button>}
      </div>
      <Trouble error={rows.error} />
      <ul className="divide-y divide-line border-y border-line">
        {rows.data?.rows.map((row) => (
          <li key={row.email.id}>
            <button
              type="button"
              aria-expanded={open === row.email.id}
              className="grid w-full grid-cols-[minmax(0,1fr)_auto] gap-x-4 px-1 py-1.5 text-left hover:bg-sunk"
              onClick={() => setOpen(open === row.email.id ? null : row.email.id)}
            >
              <Subject row={row} />
              <span className="flex items-center gap-2 text-sm whitespace-nowrap">
                <OutcomeMark outcome={row.outcomeBefore} /> → <OutcomeMark outcome={row.outcomeAfter} />
                <Moment at={row.email.at} className="w-20 text-right text-muted" />
              </span>
            </button>
            {open === row.email.id && <TwoDockets trialId={trial.id} row={row} />}
          </li>
        ))}
      </ul>
      {rows.data && rows.data.rows.length === 0 && <p className="py-2 text-muted">{common.none}</p>}
      {rows.data && rows.data.total > rows.data.rows.length && (
        <p className="mt-2 text-muted">{texts.theNewestOf(rows.data.rows.length, rows.data.total)}</p>
      )}
    </section>
  );
}

function Subject({ row }: { row: TrialRow }) {
  const { content } = row.email;
  const changes = [
    row.won.length > 0 && `+ ${row.won.join(', ')}`,
    row.lost.length > 0 && `− ${row.lost.join(', ')}`,
    row.visibilityBefore !== row.visibilityAfter && texts.seenBy(seenBy(row.visibilityAfter)),
  ].filter(Boolean);
  return (
    <span className="min-w-0">
      <span className="block truncate">
        {content ? (
          <>
            <span className="font-medium">{content.from?.name || content.from?.address}</span> {content.subject || common.noSubject}
          </>
        ) : (
          <span className="italic">{texts.anEmailWithNot(row.email.externalDomains.join(', ') || texts.noExternalParticipant)}</span>
        )}
      </span>
      {changes.length > 0 && <span className="block truncate text-sm text-muted">{changes.join(' · ')}</span>}
    </span>
  );
}

function TwoDockets({ trialId, row }: { trialId: number; row: TrialRow }) {
  const dockets = useQuery({
    ...asked('getTrialDocket', { id: trialId, email: row.email.id }),
    enabled: row.email.content !== null,
    retry: false,
  });
  if (row.email.content === null) return <p className="px-3 pb-3 text-muted">{texts.itsDecisionsNamePeople}</p>;
  if (dockets.isPending) return <Waiting what={texts.loadingBothDecisions} />;
  if (dockets.isError) return <Trouble error={dockets.error} />;
  const { before, after, step } = dockets.data;
  return (
    <div className="overflow-x-auto px-1 pb-3">
      <table className="w-full min-w-xl table-fixed border border-line bg-raised text-sm">
        <thead>
          <tr className="text-left text-muted">
            <th className="w-20 px-2 py-1 font-normal">{texts.step}</th>
            <th className="px-2 py-1 font-normal">{texts.stands}</th>
            <th className="px-2 py-1 font-normal">{texts.byTheDraft}</th>
          </tr>
        </thead>
        <tbody className="divide-y divide-line border-t border-line">
          {STEPS.map(({ step: name, title }) => (
            <tr key={name} className={clsx('align-top', step === name && 'bg-sunk shadow-[inset_3px_0_0_var(--focus)]')}>
              <th className="px-2 py-1.5 text-left font-medium">
                {title}
                {step === name && <span className="block text-xs font-normal text-ochre">{texts.differsHere}</span>}
              </th>
              {[before, after].map((docket, at) => {
                const entry = docket.find((item) => item.step === name);
                return (
                  <td key={at} className="px-2 py-1.5 break-words">
                    {entry ? (
                      <>
                        <strong>{entry.verdict}</strong>
                        {entry.because.map((value) => (
                          <span key={value} className="block text-muted">
                            {value}
                          </span>
                        ))}
                      </>
                    ) : (
                      <span className="text-muted">{texts.notReached}</span>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
