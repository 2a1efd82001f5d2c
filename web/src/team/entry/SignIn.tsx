import type { Session } from '@fulvet/contract';
import { Gate } from './Gate';
import { useTakeSession } from './takeSession';
import { Trouble } from '../../parts/basics';
import { Form, FormEnd, TextField } from '../../parts/form/Form';
import { useBodyForm } from '../../parts/form/useBodyForm';
import { common } from '../../parts/words';
import { signIn as words } from './words';

/** Address and password, then the code where a second factor is set up; or by way of the identity provider. */
export function SignIn({ session }: { session: Session }) {
  const form = useBodyForm('signIn', {
    values: { email: '', password: '' },
    input: (body) => ({ body }),
    onDone: useTakeSession(),
    checkedBy: 'server',
  });
  const told = new URLSearchParams(window.location.search).get('sign-in');
  if (session.needs === 'code') return <Code workspace={session.workspace} />;
  return (
    <Gate title={words.signInTo(session.workspace)}>
      {told && <Trouble error={new Error(told)} />}
      <Form form={form}>
        <TextField form={form} name="email" label={common.address} type="email" autoComplete="username" autoFocus />
        <TextField form={form} name="password" label={common.password} type="password" autoComplete="current-password" />
        <FormEnd form={form} label={words.signIn} pending={words.signingIn} />
      </Form>
      {session.provider && (
        <p className="mt-5 border-t border-line pt-4">
          <a
            className="inline-flex min-h-8 items-center rounded border border-line bg-raised px-2.5 py-1 text-sm font-medium hover:border-muted"
            href="/api/v1/session/provider"
          >
            {words.signInWith(session.provider)}
          </a>
        </p>
      )}
    </Gate>
  );
}

function Code({ workspace }: { workspace: string }) {
  const form = useBodyForm('giveCode', {
    values: { code: '' },
    input: (body) => ({ body }),
    onDone: useTakeSession(),
    checkedBy: 'server',
  });
  return (
    <Gate title={words.theCodeFor(workspace)}>
      <Form form={form}>
        <TextField form={form} name="code" label={words.codeOfYourAuthenticator} autoComplete="one-time-code" autoFocus />
        <FormEnd form={form} label={words.signIn} pending={common.looking} />
      </Form>
    </Gate>
  );
}
