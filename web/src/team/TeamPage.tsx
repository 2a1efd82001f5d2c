import type { AccessToken, Role, TeamMember, User } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { api, ApiFailure } from '../api/client';
import { useTeam, useTokens } from '../api/queries';
import { Address, Button, Field, Page, TextInput, Trouble } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { Teams } from './Teams';

/** Who is on the team, and the reader's own access tokens. */
export default function TeamPage({ user }: { user: User }) {
  const team = useTeam();
  return (
    <Page title="Team and tokens" wide>
      <div className="grid gap-10 lg:grid-cols-2">
        <section aria-label="Team">
          <h2 className="mb-1 text-lg">Team</h2>
          <Trouble error={team.error} />
          <ul className="divide-y divide-line border-y border-line">
            {team.data?.members.map((member) => (
              <Member key={member.id} member={member} admin={user.role === 'admin'} />
            ))}
          </ul>
          {user.role === 'admin' && <AddMember />}
        </section>
        <div>
          <Tokens />
          <Teams members={team.data?.members ?? []} admin={user.role === 'admin'} />
        </div>
      </div>
    </Page>
  );
}

function Member({ member, admin }: { member: TeamMember; admin: boolean }) {
  const [setting, setSetting] = useState(false);
  return (
    <li className="px-1 py-1.5">
      <div className="flex items-baseline gap-3">
        <span className="min-w-0 grow">
          {member.name} <Address className="block text-muted">{member.email}</Address>
        </span>
        {admin && (
          <Button kind="quiet" className="text-muted" aria-expanded={setting} onClick={() => setSetting(!setting)}>
            {member.hasPassword ? 'New password' : 'Let sign in'}
          </Button>
        )}
        <span className="w-12 text-right text-sm">{member.role}</span>
      </div>
      {setting && <SetPassword member={member} onDone={() => setSetting(false)} />}
    </li>
  );
}

function SetPassword({ member, onDone }: { member: TeamMember; onDone: () => void }) {
  const [password, setPassword] = useState('');
  const client = useQueryClient();
  const notice = useNotice();
  const save = useMutation({
    mutationFn: () => api('PUT', `/team/${member.id}/password`, { password }),
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

function AddMember() {
  const [form, setForm] = useState({ email: '', name: '', role: 'rep' as Role, password: '' });
  const client = useQueryClient();
  const notice = useNotice();
  const add = useMutation({
    mutationFn: () =>
      api<TeamMember>('POST', '/team', {
        email: form.email,
        name: form.name,
        role: form.role,
        ...(form.password ? { password: form.password } : {}),
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
      <h3>Add a member</h3>
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
          <select
            className="min-h-8 w-full rounded border border-line bg-raised px-1.5"
            value={form.role}
            onChange={(event) => setForm({ ...form, role: event.target.value as Role })}
          >
            <option value="rep">rep: own mail, histories, imports</option>
            <option value="lead">lead: as a rep</option>
            <option value="viewer">viewer: reads what is shared</option>
            <option value="admin">admin: rules and team too</option>
          </select>
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
      <Button kind="main" type="submit" disabled={add.isPending}>
        Add to the team
      </Button>
    </form>
  );
}

function Tokens() {
  const tokens = useTokens();
  const [name, setName] = useState('');
  const [made, setMade] = useState<string | null>(null);
  const client = useQueryClient();
  const again = (): Promise<void> => client.invalidateQueries({ queryKey: ['tokens'] });
  const create = useMutation({
    mutationFn: () => api<{ token: string }>('POST', '/me/tokens', { name }),
    onSuccess: async (result) => {
      setMade(result.token);
      setName('');
      await again();
    },
  });
  const revoke = useMutation({ mutationFn: (token: AccessToken) => api('DELETE', `/me/tokens/${token.id}`), onSuccess: again });
  return (
    <section aria-label="Access tokens">
      <h2 className="mb-1 text-lg">Your access tokens</h2>
      <p className="mb-2 text-muted">For the command line and for programs of yours. A token may do what you may do.</p>
      <ul className="divide-y divide-line border-y border-line">
        {tokens.data?.tokens.map((token) => (
          <li key={token.id} className="flex items-baseline gap-3 px-1 py-1.5">
            <span className="grow">{token.name}</span>
            <span className="text-sm text-muted">
              {token.lastUsedAt ? <>last used {<Moment at={token.lastUsedAt} />}</> : 'never used'}
            </span>
            <Button kind="danger" onClick={() => revoke.mutate(token)}>
              Revoke
            </Button>
          </li>
        ))}
        {tokens.data?.tokens.length === 0 && <li className="px-1 py-2 text-muted">None yet.</li>}
      </ul>
      {made && (
        <div role="status" className="mt-3 rounded border border-focus px-3 py-2">
          <div className="font-medium">Copy it now: it is not shown again.</div>
          <Address>{made}</Address>
          <Button className="mt-2" onClick={() => void navigator.clipboard.writeText(made)}>
            Copy
          </Button>
        </div>
      )}
      <form
        className="mt-3 flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          create.mutate();
        }}
      >
        <Field label="Name of a new token">
          <TextInput required name="token-name" value={name} onChange={(event) => setName(event.target.value)} placeholder="Laptop" />
        </Field>
        <Button type="submit" disabled={create.isPending || name.trim() === ''}>
          Create token
        </Button>
      </form>
      <Trouble error={create.error ?? revoke.error ?? tokens.error} />
    </section>
  );
}
