import type { EmailRow } from '@fulvet/contract';
import { CalendarDays, Paperclip, TriangleAlert } from 'lucide-react';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { OutcomeMark } from '../parts/OutcomeMark';
import { DirectionMark } from './DirectionMark';
import { Filings } from './Filings';
import { withWhom } from './withWhom';
import { common } from '../parts/words';
import { emailLine as words } from './words';

/** One email in a list: outcome, when, with whom, about what, under what. */
export function EmailLine({
  email,
  active,
  onOpen,
  chosen = false,
  onChoose = null,
}: {
  email: EmailRow;
  active: boolean;
  onOpen: () => void;
  chosen?: boolean;
  /** Told whether a range is meant; null where nothing can be chosen. */
  onChoose?: ((range: boolean) => void) | null;
}) {
  const { content } = email;
  return (
    <div
      className={clsx(
        'flex h-full items-center gap-2.5 border-b border-line px-3 hover:bg-sunk',
        chosen && 'bg-sunk',
        active && 'bg-raised shadow-[inset_3px_0_0_var(--focus)]',
      )}
      onClick={onOpen}
    >
      {onChoose && (
        <input
          type="checkbox"
          tabIndex={-1}
          aria-label={words.chooseIt}
          className="shrink-0"
          checked={chosen}
          onChange={() => undefined}
          onClick={(event) => {
            event.stopPropagation();
            onChoose(event.shiftKey);
          }}
        />
      )}
      <OutcomeMark outcome={email.outcome} />
      <DirectionMark direction={email.direction} />
      <span className="flex min-w-0 grow gap-x-2.5 max-sm:flex-col">
        <span className={clsx('shrink-0 truncate sm:w-44', !content && 'font-mono text-sm text-muted')}>{withWhom(email)}</span>
        <span className="min-w-0 grow truncate">
          {content ? (
            <>
              {email.mailClass === 'event' && (
                <CalendarDays size={13} aria-label={words.event} className="mr-1 inline-block -translate-y-px text-muted" />
              )}
              <span className="font-medium">{content.subject || common.noSubject}</span>{' '}
              <span className="text-muted max-sm:hidden">{content.preview}</span>
            </>
          ) : (
            <span className="text-muted italic">
              {email.outcome === 'kept out'
                ? email.mailClass === 'person'
                  ? 'kept out'
                  : email.mailClass
                : words.privateIn(email.mailboxes.join(', '))}
            </span>
          )}
        </span>
      </span>
      {email.hasProblems && <TriangleAlert size={13} className="shrink-0 text-ochre" aria-label={words.couldOnlyBeRead} />}
      {content && content.attachmentCount > 0 && (
        <Paperclip size={13} className="shrink-0 text-muted" aria-label={words.attachments(content.attachmentCount)} />
      )}
      <span className="hidden w-64 shrink-0 overflow-hidden whitespace-nowrap lg:block [&_a]:min-w-9 [&_a]:shrink [&>span]:flex-nowrap">
        <Filings filings={email.filings} most={2} />
      </span>
      <Moment at={email.at} className="tabular w-20 shrink-0 text-right text-sm text-muted" />
    </div>
  );
}
