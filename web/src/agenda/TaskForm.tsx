import type { Task, TaskEnd } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../api/call';
import { useRefreshAll, useSession } from '../api/queries';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { DatePicker } from '../parts/DatePicker';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { RecordChips } from '../parts/RecordChips';
import type { PickedRecord } from '../parts/RecordPicker';
import { Option, Select } from '../parts/Select';
import { TimeInput } from '../parts/TimeInput';
import { inDays, ownZone, today } from './due';
import { useDoers } from './useDoers';
import { repeatUnits, taskActs, taskDue, taskEnds, taskForm as words } from './words';

type Unit = keyof typeof repeatUnits;

const UNITS = Object.keys(repeatUnits) as Unit[];
const ENDS = Object.keys(taskEnds) as TaskEnd[];
const BY_HAND = 'by hand';
const NEVER = 'never';

/** Writes down what is to be done, or changes it. */
export default function TaskForm({
  task,
  records: about = [],
  onClose,
}: {
  task?: Task;
  records?: readonly PickedRecord[];
  onClose: () => void;
}) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const me = useSession().data?.user?.id ?? 0;
  const members = useDoers();
  const [text, setText] = useState(task?.text ?? '');
  const [details, setDetails] = useState(task?.details ?? '');
  const [day, setDay] = useState(task ? (task.due?.day ?? '') : today());
  const [time, setTime] = useState(task?.due?.time ?? '');
  const [assignee, setAssignee] = useState(task?.assignee.id ?? me);
  const [records, setRecords] = useState<readonly PickedRecord[]>(task?.records ?? about);
  const [endsBy, setEndsBy] = useState<TaskEnd | null>(task?.endsBy ?? null);
  const [unit, setUnit] = useState<Unit | null>(task?.repeat?.unit ?? null);
  const [every, setEvery] = useState(task?.repeat?.every ?? 1);
  const [isPrivate, setIsPrivate] = useState(task?.isPrivate ?? false);
  const mayEnd = task?.email != null || records.length > 0;
  const ends = mayEnd ? endsBy : null;
  const mayRepeat = day !== '' && ends === null;
  const save = useMutation({
    mutationFn: () => {
      const content = {
        text,
        details,
        due: day === '' ? null : { day, time: time === '' ? null : time, zone: task?.due?.zone ?? ownZone() },
        assigneeId: assignee,
        isPrivate,
        records: records.map(({ kind, id }) => ({ kind, id })),
        emailId: task?.email?.id ?? null,
        endsBy: ends,
        repeat: mayRepeat && unit !== null ? { every, unit } : null,
      };
      return task ? call('saveTask', { id: task.id, body: { revision: task.revision, content } }) : call('createTask', { body: content });
    },
    onSuccess: async () => {
      await refresh();
      notice(words.saved);
      onClose();
    },
  });
  const isReady = text.trim() !== '';
  return (
    <Modal open onClose={onClose} title={task ? words.changeTask : words.newTask}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (isReady) save.mutate();
        }}
      >
        <Field label={words.what}>
          <TextInput autoFocus maxLength={500} value={text} onChange={(event) => setText(event.target.value)} />
        </Field>
        <div>
          <p className="mb-1 text-sm font-medium">{words.due}</p>
          <span className="flex flex-wrap items-center gap-1.5">
            <DatePicker label={words.day} empty={words.noDay} fit="words" value={day} onValue={setDay} />
            {day !== '' && <TimeInput label={words.time} value={time} onValue={setTime} />}
            {[
              [taskDue.today, today()],
              [taskDue.tomorrow, inDays(1)],
              [taskActs.inAWeek, inDays(7)],
            ].map(([label, value = '']) => (
              <Button key={label} kind="quiet" aria-pressed={day === value} onClick={() => setDay(value)}>
                {label}
              </Button>
            ))}
          </span>
        </div>
        <div className="grid gap-3 sm:grid-cols-2">
          <Field label={words.who}>
            <Select value={String(assignee)} onValue={(value) => setAssignee(Number(value))}>
              {members.map(({ id, name }) => (
                <Option key={id} value={String(id)}>
                  {name}
                </Option>
              ))}
            </Select>
          </Field>
          {mayEnd && (
            <Field label={words.endsBy}>
              <Select value={endsBy ?? BY_HAND} onValue={(value) => setEndsBy(value === BY_HAND ? null : (value as TaskEnd))}>
                <Option value={BY_HAND}>{words.byHand}</Option>
                {ENDS.map((end) => (
                  <Option key={end} value={end}>
                    {taskEnds[end]}
                  </Option>
                ))}
              </Select>
            </Field>
          )}
        </div>
        {mayRepeat && (
          <div className="flex items-end gap-2">
            <Field label={words.repeat}>
              <Select value={unit ?? NEVER} onValue={(value) => setUnit(value === NEVER ? null : (value as Unit))}>
                <Option value={NEVER}>{words.never}</Option>
                {UNITS.map((key) => (
                  <Option key={key} value={key}>
                    {repeatUnits[key]}
                  </Option>
                ))}
              </Select>
            </Field>
            {unit !== null && (
              <Field label={words.every}>
                <TextInput
                  type="number"
                  min={1}
                  max={99}
                  className="w-20!"
                  value={every}
                  onChange={(event) => setEvery(Math.min(99, Math.max(1, Number(event.target.value) || 1)))}
                />
              </Field>
            )}
          </div>
        )}
        <div>
          <p className="mb-1 text-sm font-medium">{words.about}</p>
          <RecordChips chosen={records} onChange={setRecords} />
        </div>
        <Field label={words.details}>
          <textarea
            rows={3}
            maxLength={20_000}
            className="w-full rounded border border-line bg-raised px-2 py-1"
            value={details}
            onChange={(event) => setDetails(event.target.value)}
          />
        </Field>
        <label className="flex items-center gap-2">
          <input type="checkbox" checked={isPrivate} onChange={(event) => setIsPrivate(event.target.checked)} />
          {words.onlyUs}
        </label>
        {!isPrivate && records.length > 0 && <p className="text-sm text-muted">{words.othersSee}</p>}
        <Trouble error={save.error} />
        <Button kind="main" type="submit" disabled={!isReady || save.isPending}>
          {words.save}
        </Button>
      </form>
    </Modal>
  );
}
