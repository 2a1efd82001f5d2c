import { useQueryClient } from '@tanstack/react-query';
import { Gate } from './Gate';
import { Form, FormEnd, TextField } from '../../parts/form/Form';
import { useBodyForm } from '../../parts/form/useBodyForm';
import { listOf } from '../../parts/listOf';
import { common } from '../../parts/words';
import { setUp as words } from './words';

const NOTHING = { workspace: '', name: '', email: '', password: '', ownDomains: '' };

/** The first set-up: who administers, and who "we" are. */
export function SetUp() {
  const client = useQueryClient();
  const form = useBodyForm('setUp', {
    values: NOTHING,
    input: ({ workspace, name, email, password, ownDomains }) => ({
      body: {
        workspace: workspace || words.ourTeam,
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
    <Gate title={words.setUpFulvet}>
      <p className="mb-4 text-muted">{words.youBecomeTheFirst}</p>
      <Form form={form}>
        <TextField form={form} name="workspace" label={words.nameOfTheWorkspace} placeholder={words.ourTeam} autoFocus />
        <TextField form={form} name="name" label={words.yourName} autoComplete="name" />
        <TextField form={form} name="email" label={words.yourAddress} type="email" autoComplete="username" onBlur={suggestDomain} />
        <TextField
          form={form}
          name="password"
          label={common.password}
          hint={words.atLeast10Characters}
          type="password"
          autoComplete="new-password"
        />
        <TextField form={form} name="ownDomains" label={words.ourOwnDomains} hint={words.everyoneWithAnAddress} className="font-mono" />
        <FormEnd form={form} label={words.setUp} pending={words.settingUp} />
      </Form>
    </Gate>
  );
}
