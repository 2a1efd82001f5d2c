import type { PinReach } from '@fulvet/contract';
import { clsx } from '../parts/clsx';
import { reachChoice as words } from './words';

const WORDS: Record<PinReach, [one: string, many: string, hint: string]> = {
  email: [words.thisEmail, words.theseEmails, words.laterEmailsAreDecided],
  onward: [words.thisAndWhatFollows, words.theseAndWhatFollows, words.earlierMailStaysAs],
  soFar: [words.theConversationSoFar, words.theConversationsSoFar, words.laterEmailsAreDecided],
  conversation: [words.theWholeConversation, words.theWholeConversations, words.whatFollowsToo],
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
    <div role="radiogroup" aria-label={words.for} className="mb-3 flex flex-wrap gap-1.5">
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
