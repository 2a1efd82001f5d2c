import type { Booking, MeetingKind, User } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { asked, answersOf } from '../../api/asked';
import { call } from '../../api/call';
import { Button, Page, Trouble, Waiting } from '../../parts/basics';
import { CopyText } from '../../parts/CopyText';
import { Modal } from '../../parts/Modal';
import { useNotice } from '../../parts/Notices';
import { spanText } from '../../parts/spanText';
import { common } from '../../parts/words';
import { kindEditor, meetingTimesPage as words, weekdays } from './words';

const KindEditor = lazy(() => import('./KindEditor'));

/** What a member offers guests, and what guests booked. */
export default function MeetingTimesPage({ user }: { user: User }) {
  const kinds = useQuery(asked('listMeetingKinds'));
  const bookings = useQuery(asked('listBookings'));
  const client = useQueryClient();
  const notice = useNotice();
  const [editing, setEditing] = useState<MeetingKind | 'new' | null>(null);
  const refresh = (): Promise<void> => client.invalidateQueries(answersOf('listMeetingKinds', 'listBookings'));
  return (
    <Page
      title={words.title}
      purpose={words.purpose}
      aside={
        <Button kind="main" onClick={() => setEditing('new')}>
          {words.add}
        </Button>
      }
    >
      <section aria-label={words.kinds}>
        <h2 className="mb-1 text-lg">{words.kinds}</h2>
        <Trouble error={kinds.error} />
        {kinds.isPending && <Waiting what={common.loading} />}
        {kinds.data?.kinds.length === 0 && <p className="text-muted">{words.none}</p>}
        <ul className="divide-y divide-line border-y border-line empty:hidden">
          {kinds.data?.kinds.map((kind) => (
            <Kind key={kind.id} kind={kind} onEdit={() => setEditing(kind)} refresh={refresh} />
          ))}
        </ul>
      </section>
      <section aria-label={words.booked} className="mt-8">
        <h2 className="mb-1 text-lg">{words.booked}</h2>
        <Trouble error={bookings.error} />
        {bookings.data?.bookings.length === 0 && <p className="text-muted">{words.noneBooked}</p>}
        <ul className="divide-y divide-line border-y border-line empty:hidden">
          {bookings.data?.bookings.map((booking) => (
            <Booked key={booking.id} booking={booking} refresh={refresh} />
          ))}
        </ul>
      </section>
      <Suspense>
        {editing !== null && (
          <KindEditor
            kind={editing === 'new' ? null : editing}
            user={user}
            onClose={() => setEditing(null)}
            onSaved={({ name }) => {
              setEditing(null);
              notice(kindEditor.saved(name));
              void refresh();
            }}
          />
        )}
      </Suspense>
    </Page>
  );
}

/** `Monday to Friday`, or each day by its name. */
function daysText(days: readonly number[]): string {
  const names = days.map((day) => weekdays[day - 1] ?? '');
  const isRow = days.length > 2 && days.every((day, at) => at === 0 || day === (days[at - 1] ?? 0) + 1);
  return isRow ? `${names[0] ?? ''} to ${names.at(-1) ?? ''}` : names.join(', ');
}

function Kind({ kind, onEdit, refresh }: { kind: MeetingKind; onEdit: () => void; refresh: () => Promise<void> }) {
  const notice = useNotice();
  const { id, name, members, needs } = kind;
  const names = members.map((member) => member.name).join(', ');
  const unread = members.filter(({ readsCalendar }) => !readsCalendar).map((member) => member.name);
  const offer = useMutation({ mutationFn: () => call('offerTimes', { id, body: {} }) });
  const remove = useMutation({
    mutationFn: () => call('removeMeetingKind', { id, body: { removed: true } }),
    onSuccess: async () => {
      await refresh();
      notice(words.removed(name), {
        label: common.undo,
        run: async () => {
          await call('removeMeetingKind', { id, body: { removed: false } });
          await refresh();
          notice(words.restored(name));
        },
      });
    },
  });
  return (
    <li className="flex flex-wrap items-start gap-x-4 gap-y-1 py-2">
      <div className="min-w-64 grow basis-0">
        <p className="font-medium break-words">{name}</p>
        <p className="text-sm text-muted">
          {[
            words.minutes(kind.minutes),
            daysText(kind.days),
            words.hours(kind.from, kind.to),
            kind.zone,
            needs === 'any' && members.length > 1 ? words.anyOf(names) : words.with(names),
          ].join(' · ')}
        </p>
        {unread.length > 0 && <p className="text-sm text-ochre">{words.noCalendar(unread.join(', '))}</p>}
        <Trouble error={offer.error ?? remove.error} />
      </div>
      <div className="flex flex-wrap gap-1">
        <Button disabled={offer.isPending} aria-label={words.named(words.getLink, name)} onClick={() => offer.mutate()}>
          {words.getLink}
        </Button>
        {kind.canChange && (
          <>
            <Button kind="quiet" aria-label={words.named(words.edit, name)} onClick={onEdit}>
              {words.edit}
            </Button>
            <Button kind="quiet" disabled={remove.isPending} aria-label={words.named(words.remove, name)} onClick={() => remove.mutate()}>
              {words.remove}
            </Button>
          </>
        )}
      </div>
      {offer.data && (
        <Modal open onClose={() => offer.reset()} title={words.linkTitle}>
          <p className="mb-3">{words.linkText}</p>
          <CopyText text={offer.data.url} label={words.copy} />
          <div className="mt-4 flex justify-end">
            <Button onClick={() => offer.reset()}>{words.close}</Button>
          </div>
        </Modal>
      )}
    </li>
  );
}

function Booked({ booking, refresh }: { booking: Booking; refresh: () => Promise<void> }) {
  const notice = useNotice();
  const [isAsking, setIsAsking] = useState(false);
  const cancel = useMutation({
    mutationFn: () => call('cancelBooking', { id: booking.id }),
    onSuccess: async () => {
      setIsAsking(false);
      await refresh();
      notice(words.cancelled);
    },
  });
  const { guest } = booking;
  return (
    <li className="flex flex-wrap items-start gap-x-4 gap-y-1 py-2">
      <div className="min-w-64 grow basis-0">
        <p className="tabular font-medium">{spanText(booking.at, booking.until)}</p>
        <p className="break-words">
          {booking.name}, {guest.name} <span className="text-muted">{guest.address}</span>
        </p>
        {booking.note && <p className="text-sm break-words text-muted">{booking.note}</p>}
      </div>
      <Button kind="quiet" aria-label={words.cancelNamed(guest.name)} onClick={() => setIsAsking(true)}>
        {words.cancel}
      </Button>
      <Modal open={isAsking} onClose={() => setIsAsking(false)} title={words.cancelTitle(guest.name)}>
        <p>{words.cancelText}</p>
        <Trouble error={cancel.error} />
        <div className="mt-4 flex justify-end gap-2">
          <Button onClick={() => setIsAsking(false)}>{words.keep}</Button>
          <Button kind="danger" disabled={cancel.isPending} onClick={() => cancel.mutate()}>
            {words.cancel}
          </Button>
        </div>
      </Modal>
    </li>
  );
}
