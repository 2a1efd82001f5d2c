import type { Calendar, MailboxCalendars, MailboxDetail } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { answerKey, asked } from '../../api/asked';
import { call } from '../../api/call';
import { unlessTold, whileRunning } from '../../api/listening';
import { Button, Trouble } from '../../parts/basics';
import { filled } from '../../parts/filled';
import { Moment } from '../../parts/Moment';
import { useNotice } from '../../parts/Notices';
import { ConnectCalendars, SubscribeCalendar } from './CalendarDialogs';
import { calendarList as texts } from './words';

const READING_MS = 1500;

const isBeingRead = ({ followed, readAt, problem }: Calendar): boolean => followed && readAt === null && problem === null;

/** The calendars of a mailbox's owner: which are read, and whether that works. */
export function Calendars({ mailbox }: { mailbox: Pick<MailboxDetail, 'id'> }) {
  const client = useQueryClient();
  const [asking, setAsking] = useState<'connect' | 'subscribe' | null>(null);
  const query = useQuery({
    ...asked('listCalendars', { id: mailbox.id }),
    refetchInterval: ({ state }) => (state.data?.calendars.some(isBeingRead) ? whileRunning(READING_MS) : unlessTold(60_000)),
  });
  const take = (calendars: MailboxCalendars): void => {
    client.setQueryData(answerKey('listCalendars', { id: mailbox.id }), calendars);
  };
  const calendars = query.data?.calendars ?? [];
  const dialog = { mailboxId: mailbox.id, onClose: () => setAsking(null), onDone: take };
  return (
    <section aria-label={texts.calendars}>
      <h2 className="mb-1 text-lg">{texts.calendars}</h2>
      <p className="mb-2 max-w-2xl">{texts.whatComesIn}</p>
      {calendars.some(({ kind }) => kind === 'tasks') && <p className="mb-2 max-w-2xl">{texts.whatLists}</p>}
      <Trouble error={query.error} />
      {calendars.length > 0 && (
        <ul className="divide-y divide-line border-y border-line">
          {calendars.map((calendar) => (
            <CalendarItem key={calendar.id} calendar={calendar} onChange={take} />
          ))}
        </ul>
      )}
      {query.data && calendars.length === 0 && <p className="text-muted">{texts.noneYet}</p>}
      <div className="mt-3 flex flex-wrap gap-2">
        <Button onClick={() => setAsking('connect')}>{query.data?.account ? texts.changeServer : texts.connect}</Button>
        <Button onClick={() => setAsking('subscribe')}>{texts.subscribe}</Button>
      </div>
      {asking === 'connect' && <ConnectCalendars {...dialog} account={query.data?.account ?? null} />}
      {asking === 'subscribe' && <SubscribeCalendar {...dialog} />}
    </section>
  );
}

function CalendarItem({ calendar, onChange }: { calendar: Calendar; onChange: (calendars: MailboxCalendars) => void }) {
  const notice = useNotice();
  const { id, name } = calendar;
  const words =
    calendar.kind === 'tasks'
      ? { follow: texts.keepTasks, follows: texts.tasksAreKept, followsNot: texts.tasksAreNotKept, count: texts.tasks }
      : { follow: texts.follow, follows: texts.isRead, followsNot: texts.isNotRead, count: texts.events };
  const follow = useMutation({
    mutationFn: (followed: boolean) => call('followCalendar', { id, body: { followed } }),
    onSuccess: (calendars, followed) => {
      onChange(calendars);
      notice(followed ? words.follows(name) : words.followsNot(name));
    },
  });
  const read = useMutation({ mutationFn: () => call('readCalendar', { id }), onSuccess: onChange });
  const remove = useMutation({
    mutationFn: () => call('removeCalendar', { id }),
    onSuccess: (calendars) => {
      onChange(calendars);
      notice(texts.isRemoved(name));
    },
  });
  const isBusy = follow.isPending || read.isPending || remove.isPending;
  return (
    <li className="px-1 py-1.5">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <label className="flex min-w-48 grow items-baseline gap-2">
          <input
            type="checkbox"
            aria-label={words.follow(name)}
            checked={calendar.followed}
            disabled={isBusy}
            onChange={(event) => follow.mutate(event.target.checked)}
          />
          <span className="min-w-0 break-words">
            {name}{' '}
            <span className="text-sm text-muted">
              {[...(calendar.kind === 'tasks' ? [texts.listOfTasks] : []), calendar.host].join(' · ')}
            </span>
          </span>
        </label>
        <span className="tabular text-sm text-muted">
          {(calendar.followed || calendar.events > 0) && words.count(calendar.events)}
          {calendar.followed && calendar.readAt && <>, {filled(texts.readAt, { at: <Moment at={calendar.readAt} /> })}</>}
          {isBeingRead(calendar) && `, ${texts.beingRead}`}
        </span>
        <span className="flex gap-1">
          {calendar.followed && (
            <Button kind="quiet" disabled={isBusy} aria-label={texts.readNowNamed(name)} onClick={() => read.mutate()}>
              {texts.readNow}
            </Button>
          )}
          {calendar.kind === 'subscribed' && (
            <Button kind="quiet" disabled={isBusy} aria-label={texts.removeNamed(name)} onClick={() => remove.mutate()}>
              {texts.remove}
            </Button>
          )}
        </span>
      </div>
      {calendar.problem && (
        <p role="alert" className="mt-1 ml-6 max-w-2xl border-l-4 border-ochre bg-raised px-3 py-1.5">
          {filled(texts.since, {
            title: <strong>{calendar.problem.title}</strong>,
            since: <Moment at={calendar.problem.since} />,
            remedy: calendar.problem.remedy,
          })}
          {calendar.problem.said && <span className="block text-sm text-muted">{texts.theServerSaid(calendar.problem.said)}</span>}
        </p>
      )}
      <Trouble error={follow.error ?? read.error ?? remove.error} />
    </li>
  );
}
