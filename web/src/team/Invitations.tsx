import type { Role } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { answersOf } from '../api/asked';
import { useState } from 'react';
import { useInvitations } from './queries';
import { call } from '../api/call';
import { Address, Button, Trouble } from '../parts/basics';
import { CopyText } from '../parts/CopyText';
import { Form, FormEnd, SelectField, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Moment } from '../parts/Moment';
import { Option } from '../parts/Select';

const NEW = { email: '', name: '', role: 'rep' as Role };

/** Someone is asked to join by a link, which is theirs alone and good for a week. */
export function Invitations() {
  const [link, setLink] = useState<{ name: string; url: string } | null>(null);
  const found = useInvitations(true);
  const client = useQueryClient();
  const again = (): Promise<void> => client.invalidateQueries(answersOf('listInvitations'));
  const form = useBodyForm('invite', {
    values: NEW,
    input: (body) => ({ body }),
    onDone: async ({ invitation, token }) => {
      setLink({ name: invitation.name, url: `${window.location.origin}/join?token=${token}` });
      form.fields.reset(NEW);
      await again();
    },
  });
  const withdraw = useMutation({ mutationFn: (id: number) => call('withdrawInvitation', { id }), onSuccess: again });
  const open = found.data?.invitations.filter((invitation) => invitation.state === 'open') ?? [];
  return (
    <section aria-label="Invitations">
      <h2 className="mb-1 text-lg">Invite someone</h2>
      <Form form={form}>
        <div className="grid gap-3 sm:grid-cols-[1fr_1fr_auto]">
          <TextField form={form} name="name" label="Name" />
          <TextField form={form} name="email" label="Address" type="email" className="font-mono" />
          <SelectField form={form} name="role" label="Role">
            {(['rep', 'manager', 'viewer', 'admin'] as const).map((value) => (
              <Option value={value} key={value}>
                {value}
              </Option>
            ))}
          </SelectField>
        </div>
        <FormEnd form={form} label="Create the link" />
      </Form>
      {link && (
        <div role="status" className="mt-3 rounded border border-focus px-3 py-2">
          <p className="font-medium">Send this link to {link.name}: it is not shown again, and good for a week.</p>
          <CopyText text={link.url} label="Copy the link" />
        </div>
      )}
      {open.length > 0 && (
        <ul className="mt-3 divide-y divide-line border-y border-line" aria-label="Open invitations">
          {open.map((item) => (
            <li key={item.id} className="flex items-baseline gap-3 px-1 py-1.5">
              <span className="min-w-0 grow">
                {item.name} <Address className="text-muted">{item.email}</Address>{' '}
                <span className="text-sm text-muted">
                  {item.role}, asked by {item.by} <Moment at={item.at} />
                </span>
              </span>
              <Button kind="quiet" disabled={withdraw.isPending} onClick={() => withdraw.mutate(item.id)}>
                Withdraw invitation
              </Button>
            </li>
          ))}
        </ul>
      )}
      <Trouble error={withdraw.error ?? found.error} />
    </section>
  );
}
