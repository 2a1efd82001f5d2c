import type { HistoryConversation, HistoryEmail, Person, RecordKind } from '@fulvet/contract';
import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { useHistory } from '../api/queries';
import { Attachments } from '../emails/Attachments';
import { BodyText } from '../emails/BodyText';
import { useDocket } from '../frame/useDocket';
import { Button, Empty, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { counted } from '../parts/numbers';
import { OutcomeMark } from '../parts/OutcomeMark';
import { initialsOf, nameOf } from '../parts/people';

/** All conversations under a record, newest first. */
export function History({ kind, id, emails, conversations }: { kind: RecordKind; id: number; emails: number; conversations: number }) {
  const history = useHistory(kind, id);
  const end = useRef<HTMLDivElement>(null);
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = history;
  useEffect(() => {
    const mark = end.current;
    if (!mark) return;
    const watch = new IntersectionObserver(
      (seen) => {
        if (seen.some((one) => one.isIntersecting) && hasNextPage && !isFetchingNextPage) void fetchNextPage();
      },
      { rootMargin: '600px' },
    );
    watch.observe(mark);
    return () => watch.disconnect();
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);
  const all = history.data?.pages.flatMap((page) => page.conversations) ?? [];
  return (
    <section aria-label="History" className="min-w-0">
      <p className="tabular mb-2 text-sm text-muted">
        {emails > 0 && `${counted(emails, 'email')} in ${counted(conversations, 'conversation')}`}
      </p>
      {history.isPending && <Waiting what="Fetching the history" />}
      <Trouble error={history.error} />
      {!history.isPending && all.length === 0 && (
        <Empty title="No mail here yet">Emails appear here when one of these addresses takes part in mail that comes in.</Empty>
      )}
      <div className="space-y-4">
        {all.map((conversation, at) => (
          <Conversation key={conversation.id} conversation={conversation} open={at === 0} />
        ))}
      </div>
      <div ref={end} />
      {isFetchingNextPage && <Waiting what="Fetching more" />}
    </section>
  );
}

function Conversation({ conversation, open: openAtFirst }: { conversation: HistoryConversation; open: boolean }) {
  const [open, setOpen] = useState(openAtFirst);
  const newest = conversation.emails.at(-1);
  return (
    <article className="rounded-md border border-line bg-raised">
      <button
        type="button"
        aria-expanded={open}
        className="flex w-full items-baseline gap-3 px-3 py-2 text-left hover:bg-sunk"
        onClick={() => setOpen(!open)}
      >
        <span className="min-w-0 grow">
          <span className="font-head text-[15px] font-semibold break-words">{conversation.subject || '(no subject)'}</span>
          {!open && newest?.content && <span className="block truncate text-sm text-muted">{preview(newest)}</span>}
        </span>
        <span className="tabular text-sm whitespace-nowrap text-muted">
          {conversation.emailCount > 1 && `${conversation.emailCount} · `}
          <Moment at={conversation.lastAt} />
        </span>
      </button>
      {open && (
        <ol className="border-t border-line">
          {conversation.emailCount > conversation.emails.length && (
            <li className="border-b border-line px-3 py-1.5 text-sm">
              <Link className="text-spruce hover:underline" to={`/register?conversation=${conversation.id}`}>
                {counted(conversation.emailCount - conversation.emails.length, 'earlier email')}
              </Link>
            </li>
          )}
          {conversation.emails.map((email) => (
            <Email key={email.id} email={email} />
          ))}
        </ol>
      )}
    </article>
  );
}

function preview(email: HistoryEmail): string {
  const own = email.content?.parts.find((part) => part.kind === 'own' && part.text.trim());
  const who = email.content?.from ? nameOf(email.content.from) : '';
  if (!own) return email.mailClass === 'calendar' ? `${who}, calendar invitation` : who;
  return `${who}: ${own.text.replace(/\s+/g, ' ').trim().slice(0, 200)}`;
}

/** One email: the sender's mark stands left for people outside, right for us. */
function Email({ email }: { email: HistoryEmail }) {
  const docket = useDocket();
  const { content } = email;
  const ours = email.direction === 'sent';
  return (
    <li
      className={clsx(
        'flex gap-3 border-b border-line px-3 py-2.5 last:border-b-0',
        ours && 'flex-row-reverse',
        docket.openId === email.id && 'shadow-[inset_0_0_0_2px_var(--focus)]',
      )}
    >
      <Mark person={content?.from ?? null} ours={ours} />
      <div className="min-w-0 grow">
        <div className="mb-1 flex flex-wrap items-baseline gap-x-2">
          <span className="font-medium">{content?.from ? nameOf(content.from) : ours ? 'One of us' : 'Somebody outside'}</span>
          {content && (
            <span className="min-w-0 truncate text-sm text-muted">to {recipients(content.recipients, content.recipientCount)}</span>
          )}
          <span className="ml-auto flex items-center gap-2 text-sm whitespace-nowrap text-muted">
            {email.visibility === 'owner' && <span title="Seen by the owners of the mailboxes only">private</span>}
            <Moment at={email.at} />
            <Button
              kind="quiet"
              className="min-h-6! px-1!"
              aria-label="Open the docket"
              title="Docket"
              onClick={() => docket.open(email.id)}
            >
              <OutcomeMark outcome={email.outcome} />
            </Button>
          </span>
        </div>
        {content ? (
          <>
            <BodyText parts={content.parts} />
            {content.shortened && (
              <button type="button" className="mt-1 text-sm text-spruce hover:underline" onClick={() => docket.open(email.id)}>
                Read the rest
              </button>
            )}
            <Attachments emailId={email.id} list={content.attachments} />
          </>
        ) : (
          <p className="text-muted italic">An email in {email.mailboxes.join(', ')} that its owner has not shared.</p>
        )}
      </div>
    </li>
  );
}

function recipients(list: readonly Person[], total: number): string {
  const names = list.slice(0, 3).map(nameOf);
  return names.join(', ') + (total > names.length ? ` and ${total - names.length} more` : '');
}

function Mark({ person, ours }: { person: Person | null; ours: boolean }) {
  return (
    <span
      aria-hidden
      title={person?.address}
      className={clsx(
        'mt-0.5 grid size-7 shrink-0 place-items-center text-xs font-semibold',
        ours ? 'rounded-sm bg-spruce text-onspruce' : 'rounded-full border border-muted text-ink',
      )}
    >
      {person ? initialsOf(person) : '?'}
    </span>
  );
}
