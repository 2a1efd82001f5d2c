import { CalendarDays } from 'lucide-react';
import type { Activity, HistoryConversation, HistoryEmail, HistoryPage, Person } from '@fulvet/contract';
import { useWindowVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { HistorySource } from './queries';
import { useHistory } from './queries';
import { Attachments } from '../emails/Attachments';
import { Measure } from '../emails/Measure';
import { besideMeetings, Meetings } from '../emails/Meetings';
import { BodyText } from '../emails/BodyText';
import { Filings } from '../emails/Filings';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Button, Empty, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { spanText } from '../parts/spanText';
import { counted } from '../parts/numbers';
import { OutcomeMark } from '../parts/OutcomeMark';
import { initialsOf, nameOf } from '../parts/people';
import type { Subject } from '../repairs/useRepairKeys';
import { useRepairKeys } from '../repairs/useRepairKeys';
import { AskAccess } from '../sharing/AskAccess';
import { AnswerFromHistory } from '../writing/WriteButtons';
import { HistoryFilters, useHistoryFilter } from './HistoryFilters';
import { LoggedEntry } from './LoggedEntry';
import { common } from '../parts/words';
import { history as texts } from './words';

/** All conversations of a history, newest first. */
export function History({
  source,
  within = [],
  editable,
}: {
  source: HistorySource;
  within?: readonly { key: string; name: string }[];
  editable: boolean;
}) {
  const [filter, setFilter] = useHistoryFilter();
  const history = useHistory(source, filter);
  const box = useRef<HTMLDivElement>(null);
  const conversations = useMemo(() => history.data?.pages.flatMap((page) => page.conversations) ?? [], [history.data]);
  const firstEmail = conversations.find(({ emails }) => emails.at(-1)?.mailClass !== 'event') ?? conversations[0];
  const all = useMemo(() => inOrder(history.data?.pages ?? []), [history.data]);
  const found = history.data?.pages[0]?.found;
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = history;
  const [top, setTop] = useState(0);
  const isEmpty = all.length === 0;
  useLayoutEffect(() => setTop((box.current?.getBoundingClientRect().top ?? 0) + window.scrollY), [isEmpty]);
  const virtual = useWindowVirtualizer({
    count: all.length,
    estimateSize: () => 64,
    overscan: 6,
    scrollMargin: top,
    getItemKey: (at) => all[at]?.key ?? at,
  });
  const shown = virtual.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  useEffect(() => {
    if (last >= all.length - 4 && hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [last, all.length, hasNextPage, isFetchingNextPage, fetchNextPage]);
  const filtered = Object.keys(filter).length > 0;
  return (
    <section aria-label={texts.history} className="min-w-0">
      <HistoryFilters filter={filter} set={setFilter} within={within} />
      <p className="tabular mb-2 text-sm text-muted" role="status">
        {found && found.emails + found.events > 0 && texts.emailInConversation(found.emails, found.conversations, found.events)}
      </p>
      {source.kind !== 'domain' &&
        conversations.some((item) => item.emails.some((email) => email.content === null && email.outcome !== 'kept out')) && (
          <div className="mb-3 rounded border border-line px-3 py-2 text-sm">
            {texts.youSeeOnlyThat}
            <AskAccess about={{ scope: 'record', record: { kind: source.kind, id: Number(source.id) } }} label={texts.askTheirOwnersFor} />
          </div>
        )}
      {history.isPending && <Waiting what={texts.fetchingTheHistory} />}
      <Trouble error={history.error} />
      {!history.isPending && all.length === 0 && !history.isError && (
        <Empty title={filtered ? texts.noEmailFits : texts.noMailHereYet}>
          {filtered ? common.removeAFilterTo : texts.emailsAppearHereWhen}
        </Empty>
      )}
      <div ref={box} style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {shown.map((item) => {
          const entry = all[item.index];
          if (!entry) return null;
          return (
            <div
              key={item.key}
              ref={virtual.measureElement}
              data-index={item.index}
              className="absolute inset-x-0 top-0 pb-4"
              style={{ transform: `translateY(${item.start - virtual.options.scrollMargin}px)` }}
            >
              {'logged' in entry ? (
                <LoggedEntry entry={entry.logged} />
              ) : (
                <Conversation
                  conversation={entry.conversation}
                  source={source}
                  open={entry.conversation === firstEmail}
                  editable={editable}
                />
              )}
            </div>
          );
        })}
      </div>
      {isFetchingNextPage && <Waiting what={texts.fetchingMore} />}
    </section>
  );
}

type Entry = { key: string; at: string } & ({ conversation: HistoryConversation } | { logged: Activity });

/** Conversations and what was logged by hand, by time. */
const inOrder = (pages: readonly HistoryPage[]): Entry[] =>
  pages
    .flatMap(({ conversations, logged }): Entry[] => [
      ...conversations.map((conversation) => ({ key: `conversation ${conversation.id}`, at: conversation.lastAt, conversation })),
      ...logged.map((entry) => ({ key: `logged ${entry.id}`, at: entry.at, logged: entry })),
    ])
    .sort((earlier, later) => later.at.localeCompare(earlier.at));

/** Conversations that the reader opened or closed, so that they stay so when scrolled away and back. */
const remembered = new Map<number, boolean>();

function Conversation({
  conversation,
  source,
  open: openAtFirst,
  editable,
}: {
  conversation: HistoryConversation;
  source: HistorySource;
  open: boolean;
  editable: boolean;
}) {
  const [open, setOpenState] = useState(remembered.get(conversation.id) ?? openAtFirst);
  const setOpen = (next: boolean): void => {
    remembered.set(conversation.id, next);
    setOpenState(next);
  };
  const newest = conversation.emails.at(-1);
  const event = newest?.mailClass === 'event' ? newest.content?.meetings[0] : undefined;
  return (
    <article className="rounded-md border border-line bg-raised">
      <button
        type="button"
        aria-expanded={open}
        className="flex w-full items-baseline gap-3 px-3 py-2 text-left hover:bg-sunk"
        onClick={() => setOpen(!open)}
      >
        <span className="min-w-0 grow">
          <span className="font-head text-[15px] font-semibold break-words">
            {event && <CalendarDays size={14} aria-hidden className="mr-1.5 inline-block -translate-y-px text-muted" />}
            {event?.cancelled && <span className="text-brick">{texts.cancelledEvent} </span>}
            {titleOf(conversation)}
          </span>
          {!open && newest?.content && <span className="block truncate text-sm text-muted">{preview(newest)}</span>}
        </span>
        <span className="tabular text-sm whitespace-nowrap text-muted">
          {conversation.emailCount > 1 && `${conversation.emailCount} · `}
          {event ? spanText(event.startsAt, event.endsAt) : <Moment at={conversation.lastAt} />}
        </span>
      </button>
      {open && (
        <ol className="border-t border-line">
          {[...conversation.emails].reverse().map((email) => (
            <Email key={email.id} email={email} source={source} editable={editable} />
          ))}
          {conversation.emailCount > conversation.emails.length && (
            <li className="px-3 py-1.5 text-sm">
              <Link className="text-spruce hover:underline" to={`/all-mail?conversation=${conversation.id}`}>
                {counted(conversation.emailCount - conversation.emails.length, 'earlier email')}
              </Link>
            </li>
          )}
        </ol>
      )}
    </article>
  );
}

/** Where the reader may not know the subject, whose it is. */
function titleOf({ subject, emails }: HistoryConversation): string {
  if (subject !== '' || emails.some((email) => email.content !== null)) return subject || common.noSubject;
  const mailboxes = [...new Set(emails.flatMap((email) => email.mailboxes))];
  return texts.privateIn(mailboxes.slice(0, 2).join(' and ') || texts.aMailbox);
}

function preview(email: HistoryEmail): string {
  const own = email.content?.parts.find((part) => part.kind === 'own' && part.text.trim());
  const who = email.content?.from ? nameOf(email.content.from) : '';
  if (email.mailClass === 'event')
    return [email.content?.from, ...(email.content?.recipients ?? [])].flatMap((person) => (person ? nameOf(person) : [])).join(', ');
  if (!own) return email.mailClass === 'calendar' ? texts.calendarInvitation(who) : who;
  return `${who}: ${own.text.replace(/\s+/g, ' ').trim().slice(0, 200)}`;
}

/** One email: the sender's mark stands left for external people, right for us. */
function Email({ email, source, editable }: { email: HistoryEmail; source: HistorySource; editable: boolean }) {
  const docket = useDecisionPanel();
  const subject = useMemo((): Subject => ({ emails: [email.id], filings: email.filings, owned: false }), [email.id, email.filings]);
  const [focused, setFocused] = useState(false);
  const { dialog } = useRepairKeys(editable && focused && docket.openId === null ? subject : null);
  const beside = email.filings.filter((filing) => filing.kind !== source.kind || filing.id !== source.id);
  const { content } = email;
  const ours = email.direction === 'sent';
  return (
    <li
      tabIndex={0}
      aria-label={texts.mark(content?.from ? nameOf(content.from) : texts.anEmail, content?.subject ?? '')}
      onFocus={() => setFocused(true)}
      onBlur={(event) => !event.currentTarget.contains(event.relatedTarget) && setFocused(false)}
      onKeyDown={(event) => {
        if (event.target !== event.currentTarget || (event.key !== 'Enter' && event.key.toLowerCase() !== 'd')) return;
        event.preventDefault();
        docket.open(email.id);
      }}
      className={clsx(
        'outline-offset-[-2px] flex gap-3 border-b border-line px-3 py-2.5 last:border-b-0',
        ours && 'flex-row-reverse',
        docket.openId === email.id && 'shadow-[inset_0_0_0_2px_var(--focus)]',
      )}
    >
      <Mark person={content?.from ?? null} ours={ours} />
      <div className="min-w-0 grow">
        <div className="mb-1 flex flex-wrap items-baseline gap-x-2">
          <span className="font-medium">{content?.from ? nameOf(content.from) : ours ? texts.oneOfUs : texts.someoneOutside}</span>
          {content && (
            <span className="min-w-0 truncate text-sm text-muted">{texts.to(recipients(content.recipients, content.recipientCount))}</span>
          )}
          <span className="ml-auto flex items-center gap-2 text-sm whitespace-nowrap text-muted">
            {email.visibility === 'owner' && <span title={texts.seenByTheOwners}>{texts.private}</span>}
            <Moment at={email.at} />
            {editable && content && <AnswerFromHistory emailId={email.id} record={recordOf(source)} />}
            <Button
              kind="quiet"
              className="min-h-6! px-1!"
              aria-label={texts.openTheDecision}
              title={common.decision}
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
                {texts.readTheRest}
              </button>
            )}
            <Meetings emailId={email.id} meetings={content.meetings} attachments={content.attachments} people={content.recipients} />
            {email.measure && <Measure measure={email.measure} />}
            <Attachments emailId={email.id} list={besideMeetings(content.attachments, content.meetings)} />
            {beside.length > 0 && (
              <div className="mt-1.5">
                <Filings filings={beside} most={5} />
              </div>
            )}
          </>
        ) : (
          <>
            <p className="text-muted italic">{texts.anEmailInThat(email.mailboxes.join(', '))}</p>
            {email.outcome !== 'kept out' && <AskAccess about={{ scope: 'email', emailId: email.id }} label={texts.askToReadIt} />}
          </>
        )}
      </div>
      {dialog}
    </li>
  );
}

/** The record of a history; null: it is that of a domain. */
const recordOf = (source: HistorySource) => (source.kind === 'domain' ? null : { kind: source.kind, id: Number(source.id) });

function recipients(list: readonly Person[], total: number): string {
  const names = list.slice(0, 3).map(nameOf);
  return names.join(', ') + (total > names.length ? texts.andMore(total - names.length) : '');
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
