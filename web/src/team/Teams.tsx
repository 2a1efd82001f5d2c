import type { Team, TeamMember } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { answersOf } from '../api/asked';
import { useState } from 'react';
import { call } from '../api/call';
import { useTeams } from '../api/queries';
import { Button, Trouble } from '../parts/basics';
import { Form, FormEnd, TextField, TicksField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { common } from '../parts/words';
import { teams as words } from './words';

/** Teams: to whom rules apply, and who sees what is shared with them. */
export function Teams({ members, admin }: { members: readonly TeamMember[]; admin: boolean }) {
  const teams = useTeams();
  const [editing, setEditing] = useState<Team | null>(null);
  const client = useQueryClient();
  const form = useBodyForm('addTeam', {
    values: { name: '' },
    input: (body) => ({ body }),
    onDone: async (team) => {
      form.fields.reset();
      await client.invalidateQueries(answersOf('listTeams'));
      setEditing(team);
    },
  });
  return (
    <section aria-label={common.teams} className="mt-8">
      <h2 className="mb-1 text-lg">{common.teams}</h2>
      <p className="mb-2 text-muted">{words.rulesCanBeFor}</p>
      <Trouble error={teams.error} />
      <ul className="divide-y divide-line border-y border-line">
        {teams.data?.teams.map((team) => (
          <li key={team.id} className="flex items-baseline gap-3 px-1 py-1.5">
            <span className="min-w-0 grow">
              <span className="font-medium">{team.name}</span>
              <span className="block text-sm text-muted">
                {team.members.length === 0 ? words.noOneYet : team.members.map((member) => member.name).join(', ')}
              </span>
            </span>
            {admin && (
              <Button kind="quiet" onClick={() => setEditing(team)}>
                {words.members}
              </Button>
            )}
          </li>
        ))}
        {teams.data?.teams.length === 0 && <li className="px-1 py-2 text-muted">{common.noneYet}</li>}
      </ul>
      {admin && (
        <Form form={form} className="mt-3 flex items-end gap-2">
          <TextField form={form} name="name" label={words.nameOfANew} />
          <FormEnd form={form} kind="plain" label={words.makeTheTeam} />
        </Form>
      )}
      {editing && <Members team={editing} members={members} onClose={() => setEditing(null)} />}
    </section>
  );
}

function Members({ team, members, onClose }: { team: Team; members: readonly TeamMember[]; onClose: () => void }) {
  const client = useQueryClient();
  const notice = useNotice();
  const done = async (said: string): Promise<void> => {
    onClose();
    await client.invalidateQueries(answersOf('listTeams'));
    notice(said);
  };
  const form = useBodyForm('setTeamMembers', {
    values: { members: team.members.map((member) => String(member.id)) },
    input: (values) => ({ id: team.id, body: { members: values.members.map(Number) } }),
    onDone: (_, values) => done(words.hasMembers(team.name, values.members.length)),
  });
  const remove = useMutation({
    mutationFn: () => call('removeTeam', { id: team.id }),
    onSuccess: () => done(words.theTeamIsGone(team.name)),
  });
  return (
    <Modal open onClose={onClose} title={words.whoIsIn(team.name)}>
      <Form form={form}>
        <TicksField
          form={form}
          name="members"
          label={common.members}
          none={common.noOne}
          options={members.map((member) => ({ value: String(member.id), shown: member.name }))}
        />
        <p className="text-sm text-muted">{words.theySeeAtOnce}</p>
        <Trouble error={remove.error} />
        <FormEnd form={form} label={common.save} onCancel={onClose} />
      </Form>
      <Button kind="danger" className="mt-3" disabled={remove.isPending} onClick={() => remove.mutate()}>
        {words.removeTheTeam}
      </Button>
    </Modal>
  );
}
