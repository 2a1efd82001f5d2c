import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { asked } from '../api/asked';
import { Button } from '../parts/basics';
import { DatePicker } from '../parts/DatePicker';
import { Moment } from '../parts/Moment';
import { Option, Select } from '../parts/Select';
import { TimeInput } from '../parts/TimeInput';
import { filled } from '../parts/filled';
import { useWorkspace } from '../api/queries';
import { clockName, momentOf, morningBy } from './sendTime';
import type { Draft } from './useDraft';
import { sendBar as words } from './words';

const clock = new Intl.DateTimeFormat(undefined, { hour: '2-digit', minute: '2-digit' });

/** How an email is sent. */
export interface Send {
  now: (at?: string) => void;
  discard: () => void;
  pending: boolean;
}

/** Sends an email, now or later, or discards it. */
export function SendBar({ draft, send }: { draft: Draft; send: Send }) {
  const [isLater, setIsLater] = useState(false);
  return (
    <div className="flex flex-wrap items-center gap-2 border-t border-line pt-2">
      {isLater ? (
        <Later id={draft.stored.id} send={send} />
      ) : (
        <>
          <Button kind="main" disabled={send.pending} onClick={() => send.now()}>
            {words.sendEmail}
          </Button>
          <Button onClick={() => setIsLater(true)}>{words.sendLater}</Button>
        </>
      )}
      <Button kind="quiet" disabled={send.pending} onClick={send.discard}>
        {words.discardDraft}
      </Button>
      <span className="ml-auto text-sm text-muted" role="status">
        {draft.error ? words.notSaved : draft.isSaved ? draft.savedAt && words.saved(clock.format(draft.savedAt)) : words.saving}
      </span>
    </div>
  );
}

/** A time by the writer's clock, or by that of the recipient where their mail says it. */
function Later({ id, send }: { id: number; send: Send }) {
  const theirs = useQuery(asked('getRecipientClock', { id })).data?.clock ?? null;
  const holidays = useWorkspace().data?.automatic.holidays ?? [];
  const [day, setDay] = useState('');
  const [time, setTime] = useState('08:00');
  const [isTheirs, setIsTheirs] = useState(false);
  const offset = isTheirs && theirs ? theirs.offsetMinutes : null;
  const at = momentOf({ day, time }, offset);
  const isAhead = at.getTime() > Date.now();
  return (
    <>
      <DatePicker label={words.day} empty={words.notChosen} fit="words" value={day} onValue={setDay} />
      <TimeInput label={words.time} value={time} onValue={setTime} />
      {theirs && (
        <Select
          aria-label={words.byWhoseClock}
          fit="words"
          value={isTheirs ? 'theirs' : 'mine'}
          onValue={(value) => setIsTheirs(value === 'theirs')}
        >
          <Option value="mine">{words.myClock}</Option>
          <Option value="theirs">{words.theirClock(clockName(theirs.offsetMinutes))}</Option>
        </Select>
      )}
      <Button kind="main" disabled={!isAhead || send.pending} onClick={() => send.now(at.toISOString())}>
        {words.sendAt}
      </Button>
      <Button
        kind="quiet"
        onClick={() => {
          const morning = morningBy(new Date(), offset, new Set(holidays.map((holiday) => holiday.day)));
          setDay(morning.day);
          setTime(morning.time);
        }}
      >
        {words.nextWorkingMorning}
      </Button>
      {day !== '' && !isAhead && <span className="text-sm text-brick">{words.chooseALaterTime}</span>}
      {isTheirs && theirs && (
        <span className="text-sm text-muted">
          {filled(words.asTheirEmailSays, { name: theirs.name, when: <Moment key="when" at={theirs.at} /> })}
        </span>
      )}
    </>
  );
}
