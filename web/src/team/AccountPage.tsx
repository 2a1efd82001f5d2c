import type { AccessToken, TokenScope, User } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { answersOf } from '../api/asked';
import { useState } from 'react';
import { useSessions } from './queries';
import { call } from '../api/call';
import { useTokens } from '../api/queries';
import { Button, Page, Trouble } from '../parts/basics';
import { CopyText } from '../parts/CopyText';
import { Form, FormEnd, SelectField, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { Option } from '../parts/Select';
import { DisplayChoice } from './DisplayChoice';
import { SecondFactor } from './SecondFactor';

/** What a member sets for themselves: password, second factor, where they are signed in, access tokens. */
export default function AccountPage({ user }: { user: User }) {
  return (
    <Page title="Your account" purpose="Your password, second factor, sessions, access tokens and display." wide>
      <p className="mb-5 text-muted">
        {user.name}, {user.email}, {user.role}
      </p>
      <div className="grid gap-x-10 gap-y-8 lg:grid-cols-2">
        <div className="space-y-8">
          <SecondFactor />
          <OwnPassword />
          <DisplayChoice />
        </div>
        <div className="space-y-8">
          <Sessions />
          <Tokens user={user} />
        </div>
      </div>
    </Page>
  );
}

function OwnPassword() {
  const client = useQueryClient();
  const notice = useNotice();
  const form = useBodyForm('changeOwnPassword', {
    values: { current: '', password: '' },
    input: (body) => ({ body }),
    onDone: async () => {
      form.fields.reset();
      await client.invalidateQueries(answersOf('listSessions'));
      notice('The password is changed, and every other session has ended.');
    },
  });
  return (
    <section aria-label="Password">
      <h2 className="mb-1.5 text-lg">Password</h2>
      <Form form={form}>
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField form={form} name="current" label="Password until now" type="password" autoComplete="current-password" />
          <TextField form={form} name="password" label="New one, at least 10 characters" type="password" autoComplete="new-password" />
        </div>
        <FormEnd form={form} kind="plain" label="Change the password" />
      </Form>
    </section>
  );
}

function Sessions() {
  const sessions = useSessions();
  const client = useQueryClient();
  const notice = useNotice();
  const end = useMutation({
    mutationFn: (id: string) => call('endSession', { session: id }),
    onSuccess: async ({ ended }) => {
      await client.invalidateQueries(answersOf('listSessions'));
      notice(ended === 1 ? 'Signed out there.' : `Signed out in ${ended} places.`);
    },
  });
  const list = sessions.data?.sessions ?? [];
  return (
    <section aria-label="Where you are signed in">
      <h2 className="mb-1.5 text-lg">Where you are signed in</h2>
      <ul className="divide-y divide-line border-y border-line">
        {list.map((item) => (
          <li key={item.id} className="flex items-baseline gap-3 px-1 py-1.5">
            <span className="min-w-0 grow">
              {programName(item.program)} {item.current && <span className="text-spruce">· here</span>}
              <span className="block text-sm text-muted">
                {item.since && (
                  <>
                    since <Moment at={item.since} />,{' '}
                  </>
                )}
                last seen <Moment at={item.lastSeenAt} />
              </span>
            </span>
            {!item.current && (
              <Button kind="quiet" disabled={end.isPending} onClick={() => end.mutate(item.id)}>
                Sign out
              </Button>
            )}
          </li>
        ))}
      </ul>
      {list.length > 1 && (
        <Button className="mt-2" disabled={end.isPending} onClick={() => end.mutate('others')}>
          Sign out everywhere else
        </Button>
      )}
      <Trouble error={sessions.error ?? end.error} />
    </section>
  );
}

/** What a browser calls itself, in short. */
function programName(program: string): string {
  const name = /(Firefox|Edg|Chrome|Safari)\/(\d+)/.exec(program);
  const system = /\(([^;)]+)/.exec(program)?.[1];
  return name
    ? `${name[1] === 'Edg' ? 'Edge' : (name[1] ?? '')} ${name[2] ?? ''}${system ? ` on ${system}` : ''}`
    : program || 'An unknown program';
}

const SCOPE_LABELS: Record<string, { label: string; scopes: TokenScope[] }> = {
  read: { label: 'read only', scopes: ['read'] },
  write: { label: 'read and change', scopes: ['read', 'write'] },
  admin: { label: 'all that you may, administration too', scopes: ['read', 'write', 'admin'] },
};

function Tokens({ user }: { user: User }) {
  const tokens = useTokens();
  const [made, setMade] = useState<string | null>(null);
  const client = useQueryClient();
  const again = (): Promise<void> => client.invalidateQueries(answersOf('listTokens'));
  const form = useBodyForm('createToken', {
    values: { name: '', scope: 'write', days: '90', password: '' },
    input: ({ name, scope, days, password }) => ({
      body: { name, scopes: SCOPE_LABELS[scope]?.scopes ?? ['read'], days: days === '' ? null : Number(days), password },
    }),
    onDone: async ({ token }) => {
      setMade(token);
      form.fields.reset();
      await again();
    },
  });
  const revoke = useMutation({ mutationFn: (token: AccessToken) => call('revokeToken', { id: token.id }), onSuccess: again });
  return (
    <section aria-label="Access tokens">
      <h2 className="mb-1 text-lg">Your access tokens</h2>
      <p className="mb-2 text-muted">For the command line and for programs of yours. A token never may more than you may.</p>
      <ul className="divide-y divide-line border-y border-line">
        {tokens.data?.tokens.map((token) => (
          <li key={token.id} className="flex items-baseline gap-3 px-1 py-1.5">
            <span className="min-w-0 grow">
              {token.name}
              <span className="block text-sm text-muted">
                {Object.values(SCOPE_LABELS).find((value) => value.scopes.join() === token.scopes.join())?.label ?? token.scopes.join(', ')}
                {token.expiresAt && (
                  <>
                    , until <Moment at={token.expiresAt} />
                  </>
                )}
                ,{' '}
                {token.lastUsedAt ? (
                  <>
                    last used <Moment at={token.lastUsedAt} />
                  </>
                ) : (
                  'never used'
                )}
              </span>
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
          <CopyText text={made} label="Copy the token" />
        </div>
      )}
      <Form form={form} className="mt-3 space-y-3">
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField form={form} name="name" label="Name of a new token" placeholder="Laptop" />
          <SelectField form={form} name="scope" label="It may">
            {Object.entries(SCOPE_LABELS)
              .filter(([key]) => key !== 'admin' || user.role === 'admin')
              .map(([key, item]) => (
                <Option key={key} value={key}>
                  {item.label}
                </Option>
              ))}
          </SelectField>
          <SelectField form={form} name="days" label="Good for">
            <Option value="7">7 days</Option>
            <Option value="30">30 days</Option>
            <Option value="90">90 days</Option>
            <Option value="365">a year</Option>
            <Option value="">until revoked</Option>
          </SelectField>
          <TextField form={form} name="password" label="Your password" type="password" autoComplete="current-password" />
        </div>
        <FormEnd form={form} kind="plain" label="Create token" />
      </Form>
      <Trouble error={revoke.error ?? tokens.error} />
    </section>
  );
}
