import type { EmailRow } from '@fulvet/contract';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { OutcomeMark } from '../parts/OutcomeMark';
import { DirectionMark } from './DirectionMark';
import { withWhom } from './withWhom';
import { common } from '../parts/words';
import { emailCard as words } from './words';

/** One email in two lines: with whom and when, then about what and where it is filed. For narrow places. */
export function EmailCard({ email, active, onOpen }: { email: EmailRow; active: boolean; onOpen: () => void }) {
  const { content } = email;
  const about = content ? content.subject || common.noSubject : email.outcome === 'kept out' ? words.keptOut(email.mailClass) : 'private';
  const filed = email.filings.map(({ name }) => name).join(', ');
  return (
    <button
      type="button"
      className={clsx(
        'flex w-full items-start gap-2.5 border-b border-line px-2 py-1.5 text-left hover:bg-sunk',
        active && 'bg-raised shadow-[inset_3px_0_0_var(--focus)]',
      )}
      onClick={onOpen}
    >
      <span className="mt-1">
        <OutcomeMark outcome={email.outcome} />
      </span>
      <span className="min-w-0 grow">
        <span className="flex items-baseline gap-2">
          <DirectionMark direction={email.direction} />
          <span className="min-w-0 truncate">{withWhom(email)}</span>
          <Moment at={email.at} className="tabular ml-auto text-sm whitespace-nowrap text-muted" />
        </span>
        <span className="block truncate">
          <span className={clsx(content ? 'font-medium' : 'text-muted italic')}>{about}</span>
          {filed && <span className="text-sm text-muted"> · {filed}</span>}
        </span>
      </span>
    </button>
  );
}
