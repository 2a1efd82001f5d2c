import type { Emergency, User } from '@fulvet/contract';
import { useState } from 'react';
import { useEmergencies, useSharing } from './queries';
import { call } from '../api/call';
import { useTeam } from '../api/queries';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { exactMoment, Moment } from '../parts/Moment';
import { Select } from '../parts/Select';
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
      hint="An administrator reads a member’s mail for some hours, when a second person confirms. The member is told; what is sealed stays sealed."
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
  const mayConfirm = emergency.state === 'asked' && emergency.askedBy.id !== user.id && (user.role === 'admin' || user.role === 'lead');
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
  const [owner, setOwner] = useState('');
  const [reason, setReason] = useState('');
  const [hours, setHours] = useState('4');
  const ask = useSharing(
    () => call('askEmergency', { body: { ownerId: Number(owner), reason, hours: Number(hours) } }),
    () => 'Asked. Another administrator or a lead has to confirm it.',
  );
  return (
    <Modal open onClose={onClose} title="Read a member’s mail in an emergency">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          ask.mutate(undefined, { onSuccess: onClose });
        }}
      >
        <Field label="Whose mail">
          <Select required value={owner} onChange={(event) => setOwner(event.target.value)}>
            <option value="">Choose …</option>
            {team.data?.members
              .filter((member) => member.id !== user.id)
              .map((member) => (
                <option key={member.id} value={member.id}>
                  {member.name}
                </option>
              ))}
          </Select>
        </Field>
        <Field label="Why" hint="The member and whoever confirms read this.">
          <TextInput
            name="emergency-reason"
            required
            minLength={10}
            maxLength={1000}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        </Field>
        <Field label="For how many hours (at most 72)">
          <TextInput type="number" required min={1} max={72} value={hours} onChange={(event) => setHours(event.target.value)} />
        </Field>
        <p className="text-sm text-muted">Nothing opens before a second person confirms. Every email that you open is written down.</p>
        <Trouble error={ask.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button kind="danger" type="submit" disabled={ask.isPending || owner === ''}>
            Ask for it
          </Button>
        </div>
      </form>
    </Modal>
  );
}
