import type { Emergency, User } from '@fulvet/contract';
import { useState } from 'react';
import { useEmergencies } from './queries';
import { useSharing } from './useSharing';
import { call } from '../api/call';
import { useRefreshAll, useTeam } from '../api/queries';
import { Button, Trouble } from '../parts/basics';
import { Form, FormEnd, SelectField, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Modal } from '../parts/Modal';
import { exactMoment, Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { Option } from '../parts/Select';
import { Lines, Part } from './Part';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { emergencies as words } from './words';

/** Reading a member's mail in an emergency: two persons, for a time, told to the owner. */
export function Emergencies({ user }: { user: User }) {
  const found = useEmergencies();
  const [asking, setAsking] = useState(false);
  const list = found.data?.emergencies ?? [];
  const shown = list.filter((item) => item.state !== 'over').concat(list.filter((item) => item.state === 'over').slice(0, 3));
  if (shown.length === 0 && user.role !== 'admin') return null;
  return (
    <Part title={words.emergencyReading} hint={words.anAdministratorReadsA}>
      <Trouble error={found.error} />
      <Lines empty={common.none}>
        {shown.map((item) => (
          <Line key={item.id} emergency={item} user={user} />
        ))}
      </Lines>
      {user.role === 'admin' && (
        <Button className="mt-2" onClick={() => setAsking(true)}>
          {words.askForOne}
        </Button>
      )}
      {asking && <Ask user={user} onClose={() => setAsking(false)} />}
    </Part>
  );
}

function Line({ emergency, user }: { emergency: Emergency; user: User }) {
  const act = useSharing(
    (verb: 'confirm' | 'end') => call(verb === 'confirm' ? 'confirmEmergency' : 'endEmergency', { id: emergency.id }),
    (verb) => (verb === 'confirm' ? words.confirmedForHoursFrom(emergency.hours) : words.itIsOver),
  );
  const mine = emergency.owner.id === user.id;
  const mayConfirm = emergency.state === 'asked' && emergency.askedBy.id !== user.id && (user.role === 'admin' || user.role === 'manager');
  const mayEnd = emergency.state !== 'over' && (mine || emergency.askedBy.id === user.id || user.role === 'admin');
  return (
    <li className={`px-1 py-2 ${mine && emergency.state === 'open' ? 'border-l-4 border-l-brick pl-2' : ''}`}>
      <p>
        {filled(words.theMailOf, {
          askedByName: <span className="font-medium">{emergency.askedBy.name}</span>,
          reads: emergency.state === 'open' ? words.reads : emergency.state === 'asked' ? words.asksToRead : words.readOrAskedTo,
          you: mine ? <strong>{words.you}</strong> : emergency.owner.name,
          until: emergency.state === 'open' && emergency.until && <> {words.until(exactMoment(emergency.until))}</>,
          confirmedByName: emergency.confirmedBy && <span className="text-muted">{words.confirmedBy(emergency.confirmedBy.name)}</span>,
          askedAt: <Moment at={emergency.askedAt} className="text-muted" />,
        })}
      </p>
      <p className="border-l-2 border-line pl-2 text-muted">“{emergency.reason}”</p>
      {(mayConfirm || mayEnd) && (
        <div className="mt-1.5 flex gap-1.5">
          {mayConfirm && (
            <Button kind="danger" disabled={act.isPending} onClick={() => act.mutate('confirm')}>
              {words.confirmForHours(emergency.hours)}
            </Button>
          )}
          {mayEnd && (
            <Button disabled={act.isPending} onClick={() => act.mutate('end')}>
              {emergency.state === 'asked' && emergency.askedBy.id !== user.id ? words.refuse : words.endIt}
            </Button>
          )}
        </div>
      )}
      <Trouble error={act.error} />
    </li>
  );
}

function Ask({ user, onClose }: { user: User; onClose: () => void }) {
  const team = useTeam();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const form = useBodyForm('askEmergency', {
    values: { ownerId: '', reason: '', hours: '4' },
    input: ({ ownerId, reason, hours }) => ({ body: { ownerId: Number(ownerId), reason, hours: Number(hours) } }),
    onDone: async () => {
      await refresh();
      notice(words.askedAnotherAdministratorOr);
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={words.readAMembersMail}>
      <Form form={form}>
        <SelectField form={form} name="ownerId" label={words.member}>
          <Option value="">{common.choose}</Option>
          {team.data?.members
            .filter((member) => member.id !== user.id)
            .map((member) => (
              <Option key={member.id} value={member.id}>
                {member.name}
              </Option>
            ))}
        </SelectField>
        <TextField form={form} name="reason" label={words.why} hint={words.theMemberAndWhoever} />
        <TextField form={form} name="hours" label={words.forHowManyHours} type="number" min={1} max={72} />
        <p className="text-sm text-muted">{words.nothingOpensBeforeA}</p>
        <FormEnd form={form} kind="danger" label={words.askForIt} disabled={form.fields.watch('ownerId') === ''} onCancel={onClose} />
      </Form>
    </Modal>
  );
}
