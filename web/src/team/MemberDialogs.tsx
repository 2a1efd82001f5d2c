import type { Role, TeamMember, User } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { answersOf } from '../api/asked';
import { useRefreshAll } from '../api/queries';
import { Form, FormEnd, SelectField, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { Option } from '../parts/Select';

export const ROLE_OPTIONS: { value: Role; label: string; hint: string }[] = [
  { value: 'rep', label: 'rep', hint: 'own mail, histories, imports' },
  { value: 'manager', label: 'manager', hint: 'as a rep; sees the records of their teams, confirms emergencies' },
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
  const refresh = useRefreshAll();
  const notice = useNotice();
  const others = members.filter((item) => item.active && item.id !== member.id);
  const form = useBodyForm('deactivateMember', {
    values: { mailboxesTo: '', recordsTo: '' },
    input: ({ mailboxesTo, recordsTo }) => ({
      id: member.id,
      body: { mailboxesTo: mailboxesTo === '' ? null : Number(mailboxesTo), recordsTo: recordsTo === '' ? null : Number(recordsTo) },
    }),
    onDone: async (done) => {
      await refresh();
      notice(
        `${member.name} has left. ${counted(done.mailboxes, 'mailbox', 'mailboxes')} with ${counted(done.emails, 'email', 'emails')} and ${counted(done.records, 'record', 'records')} changed hands.`,
      );
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={`${member.name} leaves the team`}>
      <Form form={form}>
        <SelectField
          form={form}
          name="mailboxesTo"
          label="Their mailboxes go to"
          hint="Who gets them reads all of their mail but what they sealed. You cannot give them to yourself."
        >
          <Option value="">no one: histories stay, and no new mail comes in</Option>
          {others
            .filter((other) => other.id !== user.id)
            .map((other) => (
              <Option key={other.id} value={other.id}>
                {other.name}
              </Option>
            ))}
        </SelectField>
        <SelectField form={form} name="recordsTo" label="Their records go to">
          <Option value="">no one: the records keep their owner</Option>
          {others.map((other) => (
            <Option key={other.id} value={other.id}>
              {other.name}
            </Option>
          ))}
        </SelectField>
        <p className="text-sm text-muted">
          At once: sessions and tokens end, their mailboxes pause, and what colleagues shared with them ends. What they sealed stays sealed.
          Histories stay as they are.
        </p>
        <FormEnd form={form} kind="danger" label="Deactivate member" onCancel={onClose} />
      </Form>
    </Modal>
  );
}

export function SetPassword({ member, onDone }: { member: TeamMember; onDone: () => void }) {
  const client = useQueryClient();
  const notice = useNotice();
  const form = useBodyForm('setPassword', {
    values: { password: '' },
    input: (body) => ({ id: member.id, body }),
    onDone: async () => {
      await client.invalidateQueries(answersOf('listTeam'));
      notice(`${member.name} signs in with the new password from now on.`);
      onDone();
    },
  });
  return (
    <Form form={form} className="mt-1 flex items-end gap-2">
      <TextField
        form={form}
        name="password"
        label={`Password of ${member.name}, at least 10 characters`}
        type="password"
        autoComplete="new-password"
        autoFocus
      />
      <FormEnd form={form} kind="plain" label="Set password" />
    </Form>
  );
}

const NEW_MEMBER = { email: '', name: '', role: 'rep' as Role, password: '' };

export function AddMember() {
  const client = useQueryClient();
  const notice = useNotice();
  const form = useBodyForm('addMember', {
    values: NEW_MEMBER,
    input: ({ password, ...values }) => ({ body: { ...values, ...(password ? { password } : {}) } }),
    onDone: async (member) => {
      form.fields.reset(NEW_MEMBER);
      await client.invalidateQueries(answersOf('listTeam'));
      notice(`${member.name} is on the team.`);
    },
  });
  return (
    <Form form={form} className="mt-5 space-y-3">
      <h3>Add a member without asking</h3>
      <div className="grid gap-3 sm:grid-cols-2">
        <TextField form={form} name="name" label="Name" />
        <TextField form={form} name="email" label="Address" type="email" className="font-mono" />
        <SelectField form={form} name="role" label="Role">
          {ROLE_OPTIONS.map((roleOption) => (
            <Option key={roleOption.value} value={roleOption.value}>
              {roleOption.label}: {roleOption.hint}
            </Option>
          ))}
        </SelectField>
        <TextField form={form} name="password" label="First password (may be left empty)" type="password" autoComplete="new-password" />
      </div>
      <FormEnd form={form} kind="plain" label="Add to the team" />
    </Form>
  );
}
