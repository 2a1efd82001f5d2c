import type { PinReach } from '@fulvet/contract';
import { clsx } from '../parts/clsx';

const WORDS: Record<PinReach, [one: string, many: string, hint: string]> = {
  email: ['This email', 'These emails', 'Later emails are decided by the rules.'],
  onward: ['This and what follows', 'These and what follows', 'Earlier mail stays as it is.'],
  soFar: ['The conversation so far', 'The conversations so far', 'Later emails are decided by the rules.'],
  conversation: ['The whole conversation', 'The whole conversations', 'What follows, too.'],
};

/** To which emails of the conversation a word reaches. Alt and a number choose, too. */
export function ReachChoice({
  value,
  onChange,
  reaches,
  many,
}: {
  value: PinReach;
  onChange: (reach: PinReach) => void;
  reaches: readonly PinReach[];
  many: boolean;
}) {
  return (
    <div role="radiogroup" aria-label="For" className="mb-3 flex flex-wrap gap-1.5">
      {reaches.map((reach) => {
        const [single, several, hint] = WORDS[reach];
        return (
          <button
            key={reach}
            type="button"
            role="radio"
            aria-checked={value === reach}
            title={hint}
            className={clsx(
              'rounded border px-2 py-1 text-sm',
              value === reach ? 'border-spruce bg-sunk font-semibold' : 'border-line hover:border-muted',
            )}
            onClick={() => onChange(reach)}
          >
            {many ? several : single}
          </button>
        );
      })}
    </div>
  );
}
