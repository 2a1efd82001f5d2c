import type { Outcome } from '@fulvet/contract';
import { outcomeMark as texts } from './words';

type Shown = Outcome | 'undecided';

const COLOURS: Record<Shown, string> = {
  filed: 'var(--moss)',
  waiting: 'var(--ochre)',
  unfiled: 'var(--slate)',
  'kept out': 'var(--brick)',
  sealed: 'var(--plum)',
  undecided: 'var(--muted)',
};

/** What outcomes are called on screens. */
export const OUTCOME_LABELS: Record<Shown, string> = {
  filed: 'filed',
  waiting: 'waiting',
  unfiled: 'unfiled',
  'kept out': 'kept out',
  sealed: 'sealed',
  undecided: texts.notDecidedYet,
};

/** The outcome's shape in its colour; told in words to those who do not see it. */
export function OutcomeMark({ outcome, size = 12, label = true }: { outcome: Outcome | null; size?: number; label?: boolean }) {
  const shown: Shown = outcome ?? 'undecided';
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 12 12"
      className="shrink-0"
      role={label ? 'img' : undefined}
      aria-label={label ? OUTCOME_LABELS[shown] : undefined}
      aria-hidden={label ? undefined : true}
      style={{ color: COLOURS[shown] }}
    >
      {label && <title>{OUTCOME_LABELS[shown]}</title>}
      {shape(shown)}
    </svg>
  );
}

function shape(shown: Shown) {
  switch (shown) {
    case 'filed':
      return <rect x="1" y="1" width="10" height="10" rx="1" fill="currentColor" />;
    case 'waiting':
      return (
        <>
          <circle cx="6" cy="6" r="4.75" fill="none" stroke="currentColor" strokeWidth="1.5" />
          <path d="M6 1.25a4.75 4.75 0 0 1 0 9.5z" fill="currentColor" />
        </>
      );
    case 'unfiled':
      return <circle cx="6" cy="6" r="4.75" fill="none" stroke="currentColor" strokeWidth="1.5" />;
    case 'kept out':
      return (
        <>
          <rect x="1.25" y="1.25" width="9.5" height="9.5" rx="1" fill="none" stroke="currentColor" strokeWidth="1.5" />
          <path d="M1.5 6h9" stroke="currentColor" strokeWidth="2" />
        </>
      );
    case 'sealed':
      return <path d="M6 .8a3 3 0 0 0-1.5 5.6L3.6 11.2h4.8l-.9-4.8A3 3 0 0 0 6 .8z" fill="currentColor" />;
    case 'undecided':
      return <path d="M2 6h8" stroke="currentColor" strokeWidth="1.5" strokeDasharray="2 1.5" />;
  }
}
