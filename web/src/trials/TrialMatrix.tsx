import type { Outcome, TrialSummary } from '@fulvet/contract';
import { clsx } from '../parts/clsx';
import { count } from '../parts/numbers';
import { OUTCOME_LABELS, OutcomeMark } from '../parts/OutcomeMark';
import { trialMatrix as words } from './words';

const OUTCOMES = ['filed', 'waiting', 'unfiled', 'kept out'] as const;

const labelOf = (outcome: string): string => OUTCOME_LABELS[outcome as Outcome | 'undecided'];

/** From outcome to outcome; each cell opens its emails. */
export function Matrix({
  summary,
  other,
  active,
  onOpen,
}: {
  summary: TrialSummary;
  other: TrialSummary | null;
  active: Record<string, string>;
  onOpen: (filter: { before: string; after: string }) => void;
}) {
  const from = [...OUTCOMES, 'undecided'].filter((outcome) => summary.matrix[outcome]);
  return (
    <section aria-label={words.fromOutcomeToOutcome} className="min-w-0">
      <h2 className="mb-1 text-lg">{words.fromTodaysOutcomeTo}</h2>
      <div className="overflow-x-auto">
        <table className="tabular w-full border-y border-line">
          <thead>
            <tr className="text-sm text-muted">
              <th className="py-1 text-left font-normal">{words.today}</th>
              {OUTCOMES.map((value) => (
                <th key={value} className="px-2 py-1 text-right font-normal">
                  <span className="inline-flex items-center gap-1.5">
                    <OutcomeMark outcome={value} label={false} /> {OUTCOME_LABELS[value]}
                  </span>
                </th>
              ))}
            </tr>
          </thead>
          <tbody className="divide-y divide-line border-t border-line">
            {from.map((before) => (
              <tr key={before}>
                <th className="py-1 text-left font-medium">
                  <span className="inline-flex items-center gap-1.5">
                    <OutcomeMark outcome={before === 'undecided' ? null : (before as Outcome)} label={false} /> {labelOf(before)}
                  </span>
                </th>
                {OUTCOMES.map((after) => {
                  const number = summary.matrix[before]?.[after] ?? 0;
                  const moved = before !== after && number > 0;
                  const was = other?.matrix[before]?.[after];
                  return (
                    <td key={after} className="p-0 text-right">
                      <button
                        type="button"
                        disabled={!moved}
                        aria-label={words.fromTo(number, labelOf(before), labelOf(after))}
                        className={clsx(
                          'w-full px-2 py-1 text-right',
                          moved ? 'font-semibold text-spruce underline hover:bg-sunk' : 'text-muted',
                          active.before === before && active.after === after && 'bg-sunk',
                        )}
                        onClick={() => onOpen({ before, after })}
                      >
                        {number === 0 ? '·' : count(number)}
                        {was !== undefined && was !== number && <span className="ml-1 text-xs font-normal text-muted">({count(was)})</span>}
                      </button>
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
