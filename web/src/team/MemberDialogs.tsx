import type { Role, TeamMember, User } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { ApiFailure } from '../api/client';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { Select } from '../parts/Select';

export const ROLE_OPTIONS: { value: Role; label: string; hint: string }[] = [
  { value: 'rep', label: 'rep', hint: 'own mail, histories, imports' },
  { value: 'lead', label: 'lead', hint: 'as a rep; sees the records of their teams, confirms emergencies' },
  { value: 'viewer', label: 'viewer', hint: 'reads what is shared' },
  { value: 'admin', label: 'admin', hint: 'rules, team and workspace too; reads no more mail by that' },
];

/** Closes the door for a member, and says where mailboxes and records go. */
export function Leave({
  member,
  user,
  members,
  onClose,
}: {
  member: TeamMember;
  user: User;
  members: readonly TeamMember[];
  onClose: () => void;
}) {
  const [mailboxesTo, setMailboxesTo] = useState('');
  const [recordsTo, setRecordsTo] = useState('');
  const refresh = useRefreshAll();
  const notice = useNotice();
  const others = members.filter((item) => item.active && item.id !== member.id);
  const leave = useMutation({
    mutationFn: () =>
      call('deactivateMember', {
        id: member.id,
        body: {
          mailboxesTo: mailboxesTo === '' ? null : Number(mailboxesTo),
          recordsTo: recordsTo === '' ? null : Number(recordsTo),
        },
      }),
    onSuccess: async (done) => {
      await refresh();
      notice(
        `${member.name} has left. ${counted(done.mailboxes, 'mailbox', 'mailboxes')} with ${counted(done.emails, 'email', 'emails')} and ${counted(done.records, 'record', 'records')} changed hands.`,
      );
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={`${member.name} leaves the team`}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          leave.mutate();
        }}
      >
        <Field
          label="Their mailboxes go to"
          hint="Who gets them reads all of their mail but what they sealed. Nobody gives them to themselves."
        >
          <Select value={mailboxesTo} onChange={(event) => setMailboxesTo(event.target.value)}>
            <option value="">no one: histories stay, and no new mail comes in</option>
            {others
              .filter((other) => other.id !== user.id)
              .map((other) => (
                <option key={other.id} value={other.id}>
                  {other.name}
                </option>
              ))}
          </Select>
        </Field>
        <Field label="Their records go to">
          <Select value={recordsTo} onChange={(event) => setRecordsTo(event.target.value)}>
            <option value="">no one: the records keep their owner</option>
            {others.map((other) => (
              <option key={other.id} value={other.id}>
                {other.name}
              </option>
            ))}
          </Select>
        </Field>
        <p className="text-sm text-muted">
          At once: sessions and tokens end, their mailboxes pause, what colleagues let them read is taken back. What they sealed stays
          sealed. Histories stay as they are.
        </p>
        <Trouble error={leave.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button kind="danger" type="submit" disabled={leave.isPending}>
            Close the door
          </Button>
        </div>
      </form>
    </Modal>
  );
}

export function SetPassword({ member, onDone }: { member: TeamMember; onDone: () => void }) {
  const [password, setPassword] = useState('');
  const client = useQueryClient();
  const notice = useNotice();
  const save = useMutation({
    mutationFn: () => call('setPassword', { id: member.id, body: { password } }),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ['team'] });
      notice(`${member.name} signs in with the new password from now on.`);
      onDone();
    },
  });
  return (
    <form
      className="mt-1 flex items-end gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <Field label={`Password of ${member.name}, at least 10 characters`} error={save.error?.message}>
        <TextInput
          type="password"
          autoComplete="new-password"
          autoFocus
          required
          minLength={10}
          value={password}
          onChange={(event) => setPassword(event.target.value)}
        />
      </Field>
      <Button type="submit" disabled={save.isPending || password.length < 10}>
        Set password
      </Button>
    </form>
  );
}

export function AddMember() {
  const [form, setForm] = useState({ email: '', name: '', role: 'rep' as Role, password: '' });
  const client = useQueryClient();
  const notice = useNotice();
  const add = useMutation({
    mutationFn: () =>
      call('addMember', {
        body: {
          email: form.email,
          name: form.name,
          role: form.role,
          ...(form.password ? { password: form.password } : {}),
        },
      }),
    onSuccess: async (member) => {
      setForm({ email: '', name: '', role: 'rep', password: '' });
      await client.invalidateQueries({ queryKey: ['team'] });
      notice(`${member.name} is on the team.`);
    },
  });
  const fields = add.error instanceof ApiFailure ? add.error.fields : {};
  return (
    <form
      className="mt-5 space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate();
      }}
    >
      <h3>Add a member without asking</h3>
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="Name" error={fields.name}>
          <TextInput required name="member-name" value={form.name} onChange={(event) => setForm({ ...form, name: event.target.value })} />
        </Field>
        <Field label="Address" error={fields.email}>
          <TextInput
            type="email"
            required
            name="member-email"
            className="font-mono"
            value={form.email}
            onChange={(event) => setForm({ ...form, email: event.target.value })}
          />
        </Field>
        <Field label="Role">
          <Select value={form.role} onChange={(event) => setForm({ ...form, role: event.target.value as Role })}>
            {ROLE_OPTIONS.map((roleOption) => (
              <option key={roleOption.value} value={roleOption.value}>
                {roleOption.label}: {roleOption.hint}
              </option>
            ))}
          </Select>
        </Field>
        <Field label="First password (may be left empty)" error={fields.password}>
          <TextInput
            type="password"
            name="member-password"
            autoComplete="new-password"
            minLength={10}
            value={form.password}
            onChange={(event) => setForm({ ...form, password: event.target.value })}
          />
        </Field>
      </div>
      <Trouble error={Object.keys(fields).length > 0 ? null : add.error} />
      <Button type="submit" disabled={add.isPending}>
        Add to the team
      </Button>
    </form>
  );
}
