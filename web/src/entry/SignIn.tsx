import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { Session } from '@fulvet/contract';
import { api, setCsrf } from '../api/client';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { Gate } from './Gate';

export function SignIn({ workspace }: { workspace: string }) {
  const [email, setEmail] = useState('');
  const [password, setPassword] = useState('');
  const client = useQueryClient();
  const signIn = useMutation({
    mutationFn: () => api<Session>('POST', '/session', { email, password }),
    onSuccess: (session) => {
      setCsrf(session.csrf);
      client.removeQueries({ predicate: (query) => query.queryKey[0] !== 'session' });
      client.setQueryData(['session'], session);
    },
  });
  return (
    <Gate title={`Sign in to ${workspace}`}>
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
    </Gate>
  );
}
