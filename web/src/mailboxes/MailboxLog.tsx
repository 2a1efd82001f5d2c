import type { MailboxDetail } from '@fulvet/contract';
import { useState } from 'react';
import { useMailboxEvents } from './queries';
import { Button, Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { mailboxLog as texts } from './words';

const STEP = 30;
const LEVELS = { note: '', problem: 'text-brick', solved: 'text-moss' } as const;

/** What happened with a mailbox, newest first; to be downloaded as a whole. */
export function MailboxLog({ mailbox }: { mailbox: MailboxDetail }) {
  const [limit, setLimit] = useState(12);
  const events = useMailboxEvents(mailbox.id, limit);
  const list = events.data?.events ?? [];
  return (
    <section aria-label={texts.log}>
      <div className="mb-1 flex items-baseline justify-between gap-3">
        <h2 className="text-lg">{texts.log}</h2>
        <a className="text-sm text-spruce hover:underline" href={`/api/v1/mailboxes/${mailbox.id}/events/download`}>
          {texts.downloadAllJsonLines}
        </a>
      </div>
      <Trouble error={events.error} />
      <ul className="divide-y divide-line border-y border-line">
        {list.map((event) => (
          <li key={event.id} className="flex gap-3 py-1">
            <Moment at={event.at} className="tabular w-16 shrink-0 text-sm text-muted" />
            <span className={clsx('min-w-0 break-words', LEVELS[event.level])}>
              {event.message}
              {event.said && <span className="block font-mono text-xs text-muted">{event.said}</span>}
            </span>
          </li>
        ))}
        {events.data && list.length === 0 && <li className="py-1 text-muted">{texts.nothingYet}</li>}
      </ul>
      {list.length === limit && (
        <Button kind="quiet" className="mt-1 text-muted" onClick={() => setLimit(limit + STEP)}>
          {texts.earlier}
        </Button>
      )}
    </section>
  );
}
