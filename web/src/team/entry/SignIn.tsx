import type { Session } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { setCsrf } from '../../api/client';
import { call } from '../../api/call';
import { Button, Field, TextInput, Trouble } from '../../parts/basics';
import { Gate } from './Gate';

/** Takes up a session that a sign-in gave. */
export function useTakeSession(): (session: Session) => void {
  const client = useQueryClient();
  return (session) => {
    setCsrf(session.csrf);
    client.removeQueries({ predicate: (query) => query.queryKey[0] !== 'session' });
    client.setQueryData(['session'], session);
  };
}

/** Address and password, then the code where a second factor is set up; or by way of the identity provider. */
export function SignIn({ session }: { session: Session }) {
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const take = useTakeSession();
  const signIn = useMutation({ mutationFn: () => call('signIn', { body: { email, password } }), onSuccess: take });
  const told = new URLSearchParams(window.location.search).get('sign-in');
  if (session.needs === 'code') return <Code workspace={session.workspace} />;
  return (
    <Gate title={`Sign in to ${session.workspace}`}>
      {told && <Trouble error={new Error(told)} />}
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          signIn.mutate();
        }}
      >
        <Field label="Address">
          <TextInput
            type="email"
            name="email"
            autoComplete="username"
            required
            autoFocus
            value={email}
            onChange={(event) => setEmail(event.target.value)}
          />
        </Field>
        <Field label="Password">
          <TextInput
            type="password"
            name="password"
            autoComplete="current-password"
            required
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        </Field>
        <Trouble error={signIn.error} />
        <Button kind="main" type="submit" disabled={signIn.isPending}>
          {signIn.isPending ? 'Signing in …' : 'Sign in'}
        </Button>
      </form>
      {session.provider && (
        <p className="mt-5 border-t border-line pt-4">
          <a
            className="inline-flex min-h-8 items-center rounded border border-line bg-raised px-2.5 py-1 text-sm font-medium hover:border-muted"
            href="/api/v1/session/provider"
          >
            Sign in with {session.provider}
          </a>
        </p>
      )}
    </Gate>
  );
}

function Code({ workspace }: { workspace: string }) {
  const [code, setCode] = useState('');
  const take = useTakeSession();
  const give = useMutation({ mutationFn: () => call('giveCode', { body: { code } }), onSuccess: take });
  return (
    <Gate title={`The code for ${workspace}`}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          give.mutate();
        }}
      >
        <Field label="Code of your authenticator program, or a recovery code">
          <TextInput
            name="code"
            autoComplete="one-time-code"
            required
            autoFocus
            minLength={6}
            value={code}
            onChange={(event) => setCode(event.target.value)}
          />
        </Field>
        <Trouble error={give.error} />
        <Button kind="main" type="submit" disabled={give.isPending}>
          {give.isPending ? 'Looking …' : 'Sign in'}
        </Button>
      </form>
    </Gate>
  );
}
