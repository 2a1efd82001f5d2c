import type { MeetingKind, User } from '@fulvet/contract';
import { useTeam } from '../../api/queries';
import { call } from '../../api/call';
import { faultsOf } from '../../parts/form/faultsOf';
import { Form, FormEnd, RadioField, TextField, TicksField } from '../../parts/form/Form';
import { useSentForm } from '../../parts/form/useSentForm';
import { Modal } from '../../parts/Modal';
import { kindEditor as words, weekdays } from './words';

const NUMBERS = ['minutes', 'breakMinutes', 'noticeHours', 'aheadDays'] as const;

/** What a kind of meeting says, in a form. */
const valuesOf = (kind: MeetingKind | null, user: User) => ({
  name: kind?.name ?? '',
  about: kind?.about ?? '',
  place: kind?.place ?? '',
  minutes: String(kind?.minutes ?? 30),
  days: (kind?.days ?? [1, 2, 3, 4, 5]).map(String),
  from: kind?.from ?? '09:00',
  to: kind?.to ?? '17:00',
  zone: kind?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone,
  breakMinutes: String(kind?.breakMinutes ?? 15),
  noticeHours: String(kind?.noticeHours ?? 24),
  aheadDays: String(kind?.aheadDays ?? 30),
  needs: kind?.needs ?? ('all' as MeetingKind['needs']),
  memberIds: (kind?.members ?? [user]).map(({ id }) => String(id)),
});

type Values = ReturnType<typeof valuesOf>;

const numberIn = (text: string): number => (text.trim() === '' ? Number.NaN : Number(text));

const contentOf = ({ days, memberIds, ...values }: Values) => ({
  ...values,
  ...(Object.fromEntries(NUMBERS.map((name) => [name, numberIn(values[name])])) as Record<(typeof NUMBERS)[number], number>),
  days: days.map(Number).sort((first, second) => first - second),
  memberIds: memberIds.map(Number),
});

/** How long, when, where and with which members guests meet. */
export default function KindEditor({
  kind,
  user,
  onClose,
  onSaved,
}: {
  /** Null: a new one. */
  kind: MeetingKind | null;
  user: User;
  onClose: () => void;
  onSaved: (kind: MeetingKind) => void;
}) {
  const team = useTeam();
  const form = useSentForm({
    values: valuesOf(kind, user),
    faults: (values: Values) => faultsOf('createMeetingKind', contentOf(values)),
    send: (values: Values) =>
      kind
        ? call('saveMeetingKind', { id: kind.id, body: { revision: kind.revision, content: contentOf(values) } })
        : call('createMeetingKind', { body: contentOf(values) }),
    onDone: onSaved,
  });
  const members = (team.data?.members ?? []).filter(({ role, active }) => active && role !== 'viewer');
  return (
    <Modal open onClose={onClose} title={kind ? words.editTitle : words.newTitle} wide>
      <Form form={form}>
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField form={form} name="name" label={words.name} hint={words.nameHint} autoFocus />
          <TextField form={form} name="place" label={words.place} />
        </div>
        <TextField form={form} name="about" label={words.about} hint={words.aboutHint} />
        <div className="grid grid-cols-2 gap-3 sm:grid-cols-4">
          <TextField form={form} name="minutes" label={words.minutes} inputMode="numeric" />
          <TextField form={form} name="from" label={words.from} type="time" />
          <TextField form={form} name="to" label={words.to} type="time" />
          <TextField form={form} name="zone" label={words.zone} />
          <TextField form={form} name="breakMinutes" label={words.breakMinutes} inputMode="numeric" />
          <TextField form={form} name="noticeHours" label={words.noticeHours} inputMode="numeric" />
          <TextField form={form} name="aheadDays" label={words.aheadDays} inputMode="numeric" />
        </div>
        <div className="grid gap-3 sm:grid-cols-2">
          <TicksField
            form={form}
            name="days"
            label={words.days}
            none={words.noDay}
            options={weekdays.map((shown, at) => ({ value: String(at + 1), shown }))}
          />
          {user.role !== 'rep' && (
            <TicksField
              form={form}
              name="memberIds"
              label={words.members}
              none={words.noMember}
              options={members.map(({ id, name }) => ({ value: String(id), shown: name }))}
            />
          )}
        </div>
        {user.role !== 'rep' && (
          <RadioField
            form={form}
            name="needs"
            legend={words.needs}
            options={[
              { value: 'all', label: words.all },
              { value: 'any', label: words.any },
            ]}
          />
        )}
        <FormEnd form={form} label={words.save} onCancel={onClose} />
      </Form>
    </Modal>
  );
}
