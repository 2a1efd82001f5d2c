import { useQueryClient } from '@tanstack/react-query';
import { Gate } from './Gate';
import { Form, FormEnd, TextField } from '../../parts/form/Form';
import { useBodyForm } from '../../parts/form/useBodyForm';
import { listOf } from '../../parts/listOf';

const NOTHING = { workspace: '', name: '', email: '', password: '', ownDomains: '' };

/** The first set-up: who administers, and who "we" are. */
export function SetUp() {
  const client = useQueryClient();
  const form = useBodyForm('setUp', {
    values: NOTHING,
    input: ({ workspace, name, email, password, ownDomains }) => ({
      body: {
        workspace: workspace || 'Our team',
        admin: { email, name, password },
        ownDomains: listOf(ownDomains),
      },
    }),
    onDone: () => client.invalidateQueries(),
  });
  const suggestDomain = (): void => {
    const domain = form.fields.getValues('email').split('@')[1];
    if (domain && !form.fields.getValues('ownDomains')) form.fields.setValue('ownDomains', domain);
  };
  return (
    <Gate title="Set up Fulvet">
      <p className="mb-4 text-muted">You become the first administrator. Nothing is shared and no record is created until you allow it.</p>
      <Form form={form}>
        <TextField form={form} name="workspace" label="Name of the workspace" placeholder="Our team" autoFocus />
        <TextField form={form} name="name" label="Your name" autoComplete="name" />
        <TextField form={form} name="email" label="Your address" type="email" autoComplete="username" onBlur={suggestDomain} />
        <TextField
          form={form}
          name="password"
          label="Password"
          hint="At least 10 characters."
          type="password"
          autoComplete="new-password"
        />
        <TextField
          form={form}
          name="ownDomains"
          label="Our own domains"
          hint="Everyone with an address at these domains is a colleague. Separate several domains with commas."
          className="font-mono"
        />
        <FormEnd form={form} label="Set up" pending="Setting up …" />
      </Form>
    </Gate>
  );
}
