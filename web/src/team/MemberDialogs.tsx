import type { Role, TeamMember, User } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { answersOf } from '../api/asked';
import { useRefreshAll } from '../api/queries';
import { Form, FormEnd, SelectField, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { Option } from '../parts/Select';
import { common } from '../parts/words';
import { memberDialogs as words } from './words';

export const ROLE_OPTIONS: { value: Role; label: string; hint: string }[] = [
  { value: 'rep', label: words.rep, hint: words.ownMailHistoriesImports },
  { value: 'manager', label: words.manager, hint: words.asARepSees },
  { value: 'viewer', label: words.viewer, hint: words.readsWhatIsShared },
  { value: 'admin', label: words.admin, hint: words.rulesTeamAndWorkspace },
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
      notice(words.hasLeftMailboxesWith(member.name, done.mailboxes, done.emails, done.records));
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={words.leavesTheTeam(member.name)}>
      <Form form={form}>
        <SelectField form={form} name="mailboxesTo" label={words.theirMailboxesGoTo} hint={words.whoGetsThemReads}>
          <Option value="">{words.noOneHistoriesStay}</Option>
          {others
            .filter((other) => other.id !== user.id)
            .map((other) => (
              <Option key={other.id} value={other.id}>
                {other.name}
              </Option>
            ))}
        </SelectField>
        <SelectField form={form} name="recordsTo" label={words.theirRecordsGoTo}>
          <Option value="">{words.noOneTheRecords}</Option>
          {others.map((other) => (
            <Option key={other.id} value={other.id}>
              {other.name}
            </Option>
          ))}
        </SelectField>
        <p className="text-sm text-muted">{words.atOnceSessionsAnd}</p>
        <FormEnd form={form} kind="danger" label={words.deactivateMember} onCancel={onClose} />
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
      notice(words.signsInWithThe(member.name));
      onDone();
    },
  });
  return (
    <Form form={form} className="mt-1 flex items-end gap-2">
      <TextField
        form={form}
        name="password"
        label={words.passwordOfAtLeast(member.name)}
        type="password"
        autoComplete="new-password"
        autoFocus
      />
      <FormEnd form={form} kind="plain" label={words.setPassword} />
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
      notice(words.isOnTheTeam(member.name));
    },
  });
  return (
    <Form form={form} className="mt-5 space-y-3">
      <h3>{words.addAMemberWithout}</h3>
      <div className="grid gap-3 sm:grid-cols-2">
        <TextField form={form} name="name" label={common.name} />
        <TextField form={form} name="email" label={common.address} type="email" className="font-mono" />
        <SelectField form={form} name="role" label={words.role}>
          {ROLE_OPTIONS.map((roleOption) => (
            <Option key={roleOption.value} value={roleOption.value}>
              {roleOption.label}: {roleOption.hint}
            </Option>
          ))}
        </SelectField>
        <TextField form={form} name="password" label={words.firstPasswordMayBe} type="password" autoComplete="new-password" />
      </div>
      <FormEnd form={form} kind="plain" label={words.addToTheTeam} />
    </Form>
  );
}
