import type { Activity } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { format } from 'date-fns';
import { useState } from 'react';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button, Field, Trouble } from '../parts/basics';
import { DatePicker } from '../parts/DatePicker';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { RecordChips } from '../parts/RecordChips';
import type { PickedRecord } from '../parts/RecordPicker';
import { Option, Select } from '../parts/Select';
import { TimeInput } from '../parts/TimeInput';
import { activityDirections, activityKinds, logged as words } from './words';

type Kind = Activity['kind'];
type Direction = NonNullable<Activity['direction']>;

const KINDS = Object.keys(activityKinds) as Kind[];
const DIRECTIONS = Object.keys(activityDirections) as Direction[];

/** Writes down a call, a meeting, a letter, a message elsewhere or a note, or changes what was written. */
export default function LogActivity({
  entry,
  records: about,
  onClose,
}: {
  entry?: Activity;
  records: readonly PickedRecord[];
  onClose: () => void;
}) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const at = entry ? new Date(entry.at) : new Date();
  const [kind, setKind] = useState<Kind>(entry?.kind ?? 'call');
  const [direction, setDirection] = useState<Direction>(entry?.direction ?? 'both');
  const [day, setDay] = useState(format(at, 'yyyy-MM-dd'));
  const [time, setTime] = useState(format(at, 'HH:mm'));
  const [text, setText] = useState(entry?.text ?? '');
  const [isPrivate, setIsPrivate] = useState(entry?.isPrivate ?? false);
  const [records, setRecords] = useState<readonly PickedRecord[]>(about);
  const when = new Date(`${day}T${time || '00:00'}`);
  const isAhead = when.getTime() > Date.now() + 60_000;
  const save = useMutation({
    mutationFn: () => {
      const content = {
        kind,
        at: when.toISOString(),
        direction: kind === 'note' ? null : direction,
        text,
        isPrivate,
        records: records.map((record) => ({ kind: record.kind, id: record.id })),
      };
      return entry
        ? call('changeActivity', { id: entry.id, body: { revision: entry.revision, content } })
        : call('logActivity', { body: content });
    },
    onSuccess: async () => {
      await refresh();
      notice(words.saved);
      onClose();
    },
  });
  const isReady = text.trim() !== '' && day !== '' && !isAhead && records.length > 0;
  return (
    <Modal open onClose={onClose} title={words.logContact}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (isReady) save.mutate();
        }}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <Field label={words.whatWasIt}>
            <Select value={kind} onValue={(value) => setKind(value as Kind)}>
              {KINDS.map((key) => (
                <Option key={key} value={key}>
                  {activityKinds[key]}
                </Option>
              ))}
            </Select>
          </Field>
          {kind !== 'note' && (
            <Field label={words.whoReached}>
              <Select value={direction} onValue={(value) => setDirection(value as Direction)}>
                {DIRECTIONS.map((key) => (
                  <Option key={key} value={key}>
                    {activityDirections[key]}
                  </Option>
                ))}
              </Select>
            </Field>
          )}
        </div>
        <div>
          <p className="mb-1 text-sm font-medium">{words.when}</p>
          <span className="flex flex-wrap items-center gap-2">
            <DatePicker label={words.day} fit="words" value={day} onValue={setDay} />
            <TimeInput label={words.time} value={time} onValue={setTime} />
            {isAhead && <span className="text-sm text-brick">{words.stillToCome}</span>}
          </span>
        </div>
        <Field label={words.text}>
          <textarea
            rows={5}
            maxLength={20_000}
            autoFocus
            className="w-full rounded border border-line bg-raised px-2 py-1"
            value={text}
            onChange={(event) => setText(event.target.value)}
          />
        </Field>
        <div>
          <p className="mb-1 text-sm font-medium">{words.about}</p>
          <RecordChips chosen={records} onChange={setRecords} />
        </div>
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={isPrivate} onChange={(event) => setIsPrivate(event.target.checked)} />
          {words.onlyMe}
        </label>
        {!isPrivate && <p className="text-sm text-muted">{words.othersSee}</p>}
        <Trouble error={save.error} />
        <Button kind="main" type="submit" disabled={!isReady || save.isPending}>
          {words.save}
        </Button>
      </form>
    </Modal>
  );
}
