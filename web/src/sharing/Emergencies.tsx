import type { Emergency, User } from '@fulvet/contract';
import { useState } from 'react';
import { useEmergencies, useSharing } from './queries';
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

/** Reading a member's mail in an emergency: two persons, for a time, told to the owner. */
export function Emergencies({ user }: { user: User }) {
  const found = useEmergencies();
  const [asking, setAsking] = useState(false);
  const list = found.data?.emergencies ?? [];
  const shown = list.filter((item) => item.state !== 'over').concat(list.filter((item) => item.state === 'over').slice(0, 3));
  if (shown.length === 0 && user.role !== 'admin') return null;
  return (
    <Part
      title="Emergency reading"
      hint="An administrator reads a member’s mail for some hours, when a second person confirms. The member is notified. Sealed mail stays sealed."
    >
      <Trouble error={found.error} />
      <Lines empty="None.">
        {shown.map((item) => (
          <Line key={item.id} emergency={item} user={user} />
        ))}
      </Lines>
      {user.role === 'admin' && (
        <Button className="mt-2" onClick={() => setAsking(true)}>
          Ask for one …
        </Button>
      )}
      {asking && <Ask user={user} onClose={() => setAsking(false)} />}
    </Part>
  );
}

function Line({ emergency, user }: { emergency: Emergency; user: User }) {
  const act = useSharing(
    (verb: 'confirm' | 'end') => call(verb === 'confirm' ? 'confirmEmergency' : 'endEmergency', { id: emergency.id }),
    (verb) => (verb === 'confirm' ? `Confirmed for ${emergency.hours} hours from now.` : 'It is over.'),
  );
  const mine = emergency.owner.id === user.id;
  const mayConfirm = emergency.state === 'asked' && emergency.askedBy.id !== user.id && (user.role === 'admin' || user.role === 'manager');
  const mayEnd = emergency.state !== 'over' && (mine || emergency.askedBy.id === user.id || user.role === 'admin');
  return (
    <li className={`px-1 py-2 ${mine && emergency.state === 'open' ? 'border-l-4 border-l-brick pl-2' : ''}`}>
      <p>
        <span className="font-medium">{emergency.askedBy.name}</span>{' '}
        {emergency.state === 'open' ? 'reads' : emergency.state === 'asked' ? 'asks to read' : 'read or asked to read'} the mail of{' '}
        {mine ? <strong>you</strong> : emergency.owner.name}
        {emergency.state === 'open' && emergency.until && <> until {exactMoment(emergency.until)}</>}
        {emergency.confirmedBy && <span className="text-muted">, confirmed by {emergency.confirmedBy.name}</span>}{' '}
        <Moment at={emergency.askedAt} className="text-muted" />
      </p>
      <p className="border-l-2 border-line pl-2 text-muted">“{emergency.reason}”</p>
      {(mayConfirm || mayEnd) && (
        <div className="mt-1.5 flex gap-1.5">
          {mayConfirm && (
            <Button kind="danger" disabled={act.isPending} onClick={() => act.mutate('confirm')}>
              Confirm for {emergency.hours} hours
            </Button>
          )}
          {mayEnd && (
            <Button disabled={act.isPending} onClick={() => act.mutate('end')}>
              {emergency.state === 'asked' && emergency.askedBy.id !== user.id ? 'Refuse' : 'End it'}
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
      notice('Asked. Another administrator or a manager has to confirm it.');
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title="Read a member’s mail in an emergency">
      <Form form={form}>
        <SelectField form={form} name="ownerId" label="Member">
          <Option value="">Choose …</Option>
          {team.data?.members
            .filter((member) => member.id !== user.id)
            .map((member) => (
              <Option key={member.id} value={member.id}>
                {member.name}
              </Option>
            ))}
        </SelectField>
        <TextField form={form} name="reason" label="Why" hint="The member and whoever confirms read this." />
        <TextField form={form} name="hours" label="For how many hours (at most 72)" type="number" min={1} max={72} />
        <p className="text-sm text-muted">Nothing opens before a second person confirms. Every email that you open is written down.</p>
        <FormEnd form={form} kind="danger" label="Ask for it" disabled={form.fields.watch('ownerId') === ''} onCancel={onClose} />
      </Form>
    </Modal>
  );
}
