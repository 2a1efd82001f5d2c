import { useMutation, useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { ApiFailure } from '../../api/client';
import { call } from '../../api/call';
import { Address, Button, Field, TextInput, Trouble, Waiting } from '../../parts/basics';
import { Gate } from './Gate';
import { useTakeSession } from './SignIn';

/** Where an invitation's link leads: a name, a password of one's own, and in. */
export function Join({ token }: { token: string }) {
  const invited = useQuery({
    queryKey: ['invited', token],
    queryFn: ({ signal }) => call('getInvitation', { token }, signal),
    retry: false,
  });
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const take = useTakeSession();
  const go = useNavigate();
  useEffect(() => setName(invited.data?.name ?? ''), [invited.data?.name]);
  const join = useMutation({
    mutationFn: () => call('acceptInvitation', { body: { token, name, password } }),
    onSuccess: (session) => {
      void go('/', { replace: true });
      take(session);
    },
  });
  const fields = join.error instanceof ApiFailure ? join.error.fields : {};
  if (invited.isPending) return <Waiting what="Looking" />;
  if (!invited.data)
    return (
      <Gate title="Join a team">
        <Trouble error={invited.error} />
      </Gate>
    );
  return (
    <Gate title={`Join ${invited.data.workspace}`}>
      <p className="mb-4 text-muted">
        {invited.data.by} invites you, <Address>{invited.data.email}</Address>.
      </p>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          join.mutate();
        }}
      >
        <Field label="Your name" error={fields.name}>
          <TextInput required maxLength={100} autoComplete="name" value={name} onChange={(event) => setName(event.target.value)} />
        </Field>
        <Field label="A password, at least 10 characters" error={fields.password}>
          <TextInput
            type="password"
            autoComplete="new-password"
            required
            minLength={10}
            autoFocus
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        </Field>
        <Trouble error={Object.keys(fields).length > 0 ? null : join.error} />
        <Button kind="main" type="submit" disabled={join.isPending}>
          Join
        </Button>
      </form>
    </Gate>
  );
}
