import type { Answer } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../../api/asked';
import { useNavigate } from 'react-router';
import { Address, Trouble, Waiting } from '../../parts/basics';
import { Form, FormEnd, TextField } from '../../parts/form/Form';
import { useBodyForm } from '../../parts/form/useBodyForm';
import { Gate } from './Gate';
import { useTakeSession } from './takeSession';
import { filled } from '../../parts/filled';
import { join as words } from './words';

/** Where an invitation's link leads: a name, a password of one's own, and in. */
export function Join({ token }: { token: string }) {
  const invited = useQuery({
    ...asked('getInvitation', { token }),
    retry: false,
  });
  if (invited.isPending) return <Waiting what={words.looking} />;
  if (!invited.data)
    return (
      <Gate title={words.joinATeam}>
        <Trouble error={invited.error} />
      </Gate>
    );
  return <Accept token={token} invited={invited.data} />;
}

function Accept({ token, invited }: { token: string; invited: Answer<'getInvitation'> }) {
  const take = useTakeSession();
  const go = useNavigate();
  const form = useBodyForm('acceptInvitation', {
    values: { name: invited.name, password: '' },
    input: (values) => ({ body: { token, ...values } }),
    onDone: (session) => {
      void go('/', { replace: true });
      take(session);
    },
  });
  return (
    <Gate title={words.join(invited.workspace)}>
      <p className="mb-4 text-muted">{filled(words.invitesYou, { invitedBy: invited.by, email: <Address>{invited.email}</Address> })}</p>
      <Form form={form}>
        <TextField form={form} name="name" label={words.yourName} autoComplete="name" />
        <TextField form={form} name="password" label={words.aPasswordAtLeast} type="password" autoComplete="new-password" autoFocus />
        <FormEnd form={form} label={words.joinNow} />
      </Form>
    </Gate>
  );
}
