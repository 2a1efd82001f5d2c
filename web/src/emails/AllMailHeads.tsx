import { OUTCOME_LABELS, OutcomeMark } from '../parts/OutcomeMark';
import { allMailPage as words } from './words';

/** So many emails are put right in one step. */
export const MOST_CHOSEN = 500;

/** Chooses all emails or none, and says what the columns of the list are and what the marks mean. */
export function AllMailHeads({ chosen, onChoose }: { chosen: 'none' | 'some' | 'all' | null; onChoose: (take: boolean) => void }) {
  return (
    <div className="flex items-center border-b border-line px-3 py-1 max-sm:hidden">
      {chosen && (
        <input
          type="checkbox"
          aria-label={words.chooseTheFirst(MOST_CHOSEN)}
          title={words.chooseTheFirst(MOST_CHOSEN)}
          className="mr-2.5 accent-(--spruce)"
          checked={chosen === 'all'}
          ref={(box) => {
            if (box) box.indeterminate = chosen === 'some';
          }}
          onChange={() => onChoose(chosen !== 'all')}
        />
      )}
      <ColumnNames />
    </div>
  );
}

function ColumnNames() {
  return (
    <div aria-hidden className="flex grow items-center gap-2.5 text-xs text-muted">
      <span className="w-3" />
      <span className="w-4" />
      <span className="w-44 shrink-0">{words.with}</span>
      <span className="flex min-w-0 grow gap-4">
        {words.subject}
        <span className="flex gap-3 max-xl:hidden">
          {(['filed', 'waiting', 'unfiled', 'kept out', 'sealed'] as const).map((outcome) => (
            <span key={outcome} className="flex items-center gap-1">
              <OutcomeMark outcome={outcome} size={9} label={false} /> {OUTCOME_LABELS[outcome]}
            </span>
          ))}
        </span>
      </span>
      <span className="hidden w-64 shrink-0 lg:block">{words.filedUnder}</span>
      <span className="w-20 shrink-0 text-right">{words.date}</span>
    </div>
  );
}
