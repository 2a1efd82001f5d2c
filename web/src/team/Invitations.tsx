import type { Role } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useInvitations } from './queries';
import { ApiFailure } from '../api/client';
import { call } from '../api/call';
import { Address, Button, Field, TextInput, Trouble } from '../parts/basics';
import { CopyText } from '../parts/CopyText';
import { Moment } from '../parts/Moment';
import { Select } from '../parts/Select';

/** Someone is asked to join by a link, which is theirs alone and good for a week. */
export function Invitations() {
  const [form, setForm] = useState({ email: '', name: '', role: 'rep' as Role });
  const [link, setLink] = useState<{ name: string; url: string } | null>(null);
  const found = useInvitations(true);
  const client = useQueryClient();
  const again = (): Promise<void> => client.invalidateQueries({ queryKey: ['invitations'] });
  const invite = useMutation({
    mutationFn: () => call('invite', { body: form }),
    onSuccess: async ({ invitation, token }) => {
      setLink({ name: invitation.name, url: `${window.location.origin}/join?token=${token}` });
      setForm({ email: '', name: '', role: 'rep' });
      await again();
    },
  });
  const withdraw = useMutation({ mutationFn: (id: number) => call('withdrawInvitation', { id }), onSuccess: again });
  const fields = invite.error instanceof ApiFailure ? invite.error.fields : {};
  const open = found.data?.invitations.filter((invitation) => invitation.state === 'open') ?? [];
  return (
    <section aria-label="Invitations">
      <h2 className="mb-1 text-lg">Invite someone</h2>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          invite.mutate();
        }}
      >
        <div className="grid gap-3 sm:grid-cols-[1fr_1fr_auto]">
          <Field label="Name">
            <TextInput
              required
              name="invite-name"
              maxLength={100}
              value={form.name}
              onChange={(event) => setForm({ ...form, name: event.target.value })}
            />
          </Field>
          <Field label="Address" error={fields.email}>
            <TextInput
              type="email"
              required
              name="invite-email"
              className="font-mono"
              value={form.email}
              onChange={(event) => setForm({ ...form, email: event.target.value })}
            />
          </Field>
          <Field label="Role">
            <Select value={form.role} onChange={(event) => setForm({ ...form, role: event.target.value as Role })}>
              {(['rep', 'lead', 'viewer', 'admin'] as const).map((value) => (
                <option key={value}>{value}</option>
              ))}
            </Select>
          </Field>
        </div>
        <Trouble error={Object.keys(fields).length > 0 ? null : invite.error} />
        <Button kind="main" type="submit" disabled={invite.isPending}>
          Make the link
        </Button>
      </form>
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
                Take back
              </Button>
            </li>
          ))}
        </ul>
      )}
      <Trouble error={withdraw.error ?? found.error} />
    </section>
  );
}
