import type { MeetingKind, Offered, RecordKind } from '@fulvet/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { asked } from '../../api/asked';
import { call } from '../../api/call';
import { Button, Trouble, Waiting } from '../../parts/basics';
import { Modal } from '../../parts/Modal';
import { common } from '../../parts/words';
import { meetingTimesPage, offerTimes as words } from './words';

const TIMES = 3;

/** Words with the address that they lead to. */
export interface OfferedLink {
  words: string;
  url: string;
}

/** Puts a link by which the recipient books a time into an email, or some free times. */
export default function OfferTimes({
  record,
  onInsert,
  onClose,
}: {
  /** Under what the meeting is filed. */
  record: { kind: RecordKind; id: number } | null;
  onInsert: (links: readonly OfferedLink[]) => void;
  onClose: () => void;
}) {
  const found = useQuery(asked('listMeetingKinds'));
  const kinds: readonly MeetingKind[] = found.data?.kinds ?? [];
  const [chosen, setChosen] = useState<number | null>(null);
  const kindId = chosen ?? kinds[0]?.id ?? 0;
  const [isFull, setIsFull] = useState(false);
  const offer = useMutation({
    mutationFn: (times: number) => call('offerTimes', { id: kindId, body: { times, record } }),
    onSuccess: (offered, times) => {
      setIsFull(times > 0 && offered.times.length === 0);
      if (times > 0 && offered.times.length === 0) return;
      onInsert(linksOf(offered));
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={words.title}>
      <Trouble error={found.error} />
      {found.isPending && <Waiting what={common.loading} />}
      {found.data && kinds.length === 0 && (
        <p>
          {words.none}{' '}
          <Link className="text-spruce underline" to="/meeting-times">
            {meetingTimesPage.title}
          </Link>
        </p>
      )}
      <fieldset className="space-y-1">
        <legend className="sr-only">{words.kind}</legend>
        {kinds.map(({ id, name, minutes, members }) => (
          <label key={id} className="flex items-baseline gap-2">
            <input type="radio" name="kind" checked={id === kindId} onChange={() => setChosen(id)} />
            <span>
              {name}{' '}
              <span className="text-sm text-muted">
                {meetingTimesPage.minutes(minutes)}, {meetingTimesPage.with(members.map((member) => member.name).join(', '))}
              </span>
            </span>
          </label>
        ))}
      </fieldset>
      {isFull && <p className="mt-2 text-ochre">{words.noTime}</p>}
      <Trouble error={offer.error} />
      <div className="mt-4 flex flex-wrap gap-2">
        <Button kind="main" disabled={kinds.length === 0 || offer.isPending} onClick={() => offer.mutate(0)}>
          {words.insertLink}
        </Button>
        <Button disabled={kinds.length === 0 || offer.isPending} onClick={() => offer.mutate(TIMES)}>
          {words.insertTimes}
        </Button>
      </div>
    </Modal>
  );
}

/** A line for each time, in the zone of the kind, and the link to all of them. */
function linksOf({ url, times, zone }: Offered): OfferedLink[] {
  if (times.length === 0) return [{ words: words.linkWords, url }];
  const format = new Intl.DateTimeFormat(undefined, {
    timeZone: zone,
    weekday: 'long',
    day: 'numeric',
    month: 'long',
    hour: '2-digit',
    minute: '2-digit',
    timeZoneName: 'short',
  });
  return [...times.map((time) => ({ words: format.format(new Date(time.at)), url: time.url })), { words: words.otherTimes, url }];
}
