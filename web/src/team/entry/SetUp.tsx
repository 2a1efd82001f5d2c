import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { ApiFailure } from '../../api/client';
import { call } from '../../api/call';
import { Button, Field, TextInput, Trouble } from '../../parts/basics';
import { Gate } from './Gate';

/** The first set-up: who administers, and who "we" are. */
export function SetUp() {
  const [form, setForm] = useState({ workspace: '', name: '', email: '', password: '', domains: '' });
  const client = useQueryClient();
  const set = (name: keyof typeof form) => (event: { target: { value: string } }) => setForm({ ...form, [name]: event.target.value });
  const ownDomains = form.domains.split(/[\s,;]+/).filter(Boolean);
  const setUp = useMutation({
    mutationFn: () =>
      call('setUp', {
        body: {
          workspace: form.workspace || 'Our team',
          admin: { email: form.email, name: form.name, password: form.password },
          ownDomains,
        },
      }),
    onSuccess: () => client.invalidateQueries(),
  });
  const fields = setUp.error instanceof ApiFailure ? setUp.error.fields : {};
  const suggestDomain = (): void => {
    const domain = form.email.split('@')[1];
    if (domain && !form.domains) setForm({ ...form, domains: domain });
  };
  return (
    <Gate title="Set up Fulvet">
      <p className="mb-4 text-muted">You become the first administrator. Nothing is shared and no record is created until you say so.</p>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          setUp.mutate();
        }}
      >
        <Field label="Name of the workspace">
          <TextInput name="workspace" value={form.workspace} onChange={set('workspace')} placeholder="Our team" autoFocus />
        </Field>
        <Field label="Your name" error={fields['admin.name']}>
          <TextInput name="name" autoComplete="name" required value={form.name} onChange={set('name')} />
        </Field>
        <Field label="Your address" error={fields['admin.email']}>
          <TextInput
            type="email"
            name="email"
            autoComplete="username"
            required
            value={form.email}
            onChange={set('email')}
            onBlur={suggestDomain}
          />
        </Field>
        <Field label="Password" hint="At least 10 characters." error={fields['admin.password']}>
          <TextInput
            type="password"
            name="password"
            autoComplete="new-password"
            required
            minLength={10}
            value={form.password}
            onChange={set('password')}
          />
        </Field>
        <Field
          label="Our own domains"
          hint="Everybody under these domains is a colleague. Separate several by commas."
          error={fields.ownDomains}
        >
          <TextInput name="domains" required value={form.domains} onChange={set('domains')} className="font-mono" />
        </Field>
        <Trouble error={setUp.error} />
        <Button kind="main" type="submit" disabled={setUp.isPending}>
          {setUp.isPending ? 'Setting up …' : 'Set up'}
        </Button>
      </form>
    </Gate>
  );
}
