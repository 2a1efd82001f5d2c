import type { EmailRow } from '@fulvet/contract';
import { Paperclip, TriangleAlert } from 'lucide-react';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { OutcomeMark } from '../parts/OutcomeMark';
import { nameOf } from '../parts/people';
import { Filings } from './Filings';

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
  const who = content ? withWhom(email) : email.externalDomains.slice(0, 2).join(', ') || 'among ourselves';
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
          aria-label="Choose it"
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
      <span className="w-4 shrink-0 text-center text-muted" title={email.direction ?? ''}>
        {email.direction === 'sent' ? '→' : email.direction === 'received' ? '←' : '·'}
      </span>
      <span className={clsx('w-24 shrink-0 truncate sm:w-44', !content && 'font-mono text-sm text-muted')}>{who}</span>
      <span className="min-w-0 grow truncate">
        {content ? (
          <>
            <span className="font-medium">{content.subject || '(no subject)'}</span>{' '}
            <span className="text-muted max-sm:hidden">{content.preview}</span>
          </>
        ) : (
          <span className="text-muted italic">
            {email.outcome === 'kept out'
              ? email.mailClass === 'person'
                ? 'kept out'
                : email.mailClass
              : `private, in ${email.mailboxes.join(', ')}`}
          </span>
        )}
      </span>
      {email.hasProblems && <TriangleAlert size={13} className="shrink-0 text-ochre" aria-label="Could only be read in part" />}
      {content && content.attachmentCount > 0 && (
        <Paperclip size={13} className="shrink-0 text-muted" aria-label={`${content.attachmentCount} attachments`} />
      )}
      <span className="hidden w-64 shrink-0 overflow-hidden whitespace-nowrap lg:block [&>span]:flex-nowrap">
        <Filings filings={email.filings} most={2} />
      </span>
      <Moment at={email.at} className="tabular w-20 shrink-0 text-right text-sm text-muted" />
    </div>
  );
}

function withWhom(email: EmailRow): string {
  const { content } = email;
  if (!content) return '';
  if (email.direction === 'received') return content.from ? nameOf(content.from) : '(no sender)';
  const outside = content.to.filter((item) => !item.ours);
  const shown = (outside.length > 0 ? outside : content.to).map(nameOf);
  return shown.length > 1 ? `${shown[0] ?? ''} +${content.recipientCount - 1}` : (shown[0] ?? '(no one)');
}
