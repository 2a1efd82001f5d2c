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
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { invitations as words } from './words';

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
    <section aria-label={words.invitations}>
      <h2 className="mb-1 text-lg">{words.inviteSomeone}</h2>
      <Form form={form}>
        <div className="grid gap-3 sm:grid-cols-[1fr_1fr_auto]">
          <TextField form={form} name="name" label={common.name} />
          <TextField form={form} name="email" label={common.address} type="email" className="font-mono" />
          <SelectField form={form} name="role" label={words.role}>
            {(['rep', 'manager', 'viewer', 'admin'] as const).map((value) => (
              <Option value={value} key={value}>
                {value}
              </Option>
            ))}
          </SelectField>
        </div>
        <FormEnd form={form} label={words.createTheLink} />
      </Form>
      {link && (
        <div role="status" className="mt-3 rounded border border-focus px-3 py-2">
          <p className="font-medium">{words.sendThisLinkTo(link.name)}</p>
          <CopyText text={link.url} label={words.copyTheLink} />
        </div>
      )}
      {open.length > 0 && (
        <ul className="mt-3 divide-y divide-line border-y border-line" aria-label={words.openInvitations}>
          {open.map((item) => (
            <li key={item.id} className="flex items-baseline gap-3 px-1 py-1.5">
              <span className="min-w-0 grow">
                {item.name} <Address className="text-muted">{item.email}</Address>{' '}
                <span className="text-sm text-muted">
                  {filled(words.askedBy, { role: item.role, itemBy: item.by, itemAt: <Moment at={item.at} /> })}
                </span>
              </span>
              <Button kind="quiet" disabled={withdraw.isPending} onClick={() => withdraw.mutate(item.id)}>
                {words.withdrawInvitation}
              </Button>
            </li>
          ))}
        </ul>
      )}
      <Trouble error={withdraw.error ?? found.error} />
    </section>
  );
}
