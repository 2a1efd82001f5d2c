import type { ConnectionRequest, FoundServers, MailboxDetail, MailEndpoint } from '@fulvet/contract';
import { useState } from 'react';
import { useController } from 'react-hook-form';
import { call } from '../api/call';
import { usePresets } from './queries';
import { Button, TextInput } from '../parts/basics';
import { faultsOf } from '../parts/form/faultsOf';
import { Form, FormEnd, RadioField, TextField } from '../parts/form/Form';
import type { SentForm } from '../parts/form/useSentForm';
import { useSentForm } from '../parts/form/useSentForm';
import { Option, Select } from '../parts/Select';
import { filled } from '../parts/filled';
import { serverForm as words } from './words';

type Security = MailEndpoint['security'];

const PORTS: Record<'imap' | 'smtp', Record<Security, number>> = { imap: { tls: 993, starttls: 143 }, smtp: { tls: 465, starttls: 587 } };
const FOUND_BY = {
  'service records': words.theDomainItselfSays,
  preset: words.thisInstallationKnowsThe,
  nothing: words.theDomainDoesNot,
} as const;

interface Values {
  imap: MailEndpoint;
  smtp: MailEndpoint;
  userName: string;
  /** Empty: what suits the provider. */
  signIn: '' | ConnectionRequest['signIn'];
  password: string;
}

const empty = (which: 'imap' | 'smtp'): MailEndpoint => ({ host: '', port: PORTS[which].tls, security: 'tls' });

/** Servers and sign-in. Storing it starts the checks, or leads to the provider’s sign-in page. */
export function ServerForm({
  mailbox,
  found,
  onStored,
}: {
  mailbox: MailboxDetail;
  found: FoundServers | null;
  onStored: (mailbox: MailboxDetail) => void;
}) {
  const known = mailbox.connection;
  const [showServers, setShowServers] = useState(known === null && found?.imap == null);
  const presets = usePresets().data?.presets;
  const presetOf = (host: string) => presets?.find((item) => item.hosts.includes(host.trim().toLowerCase()));
  const signInOf = ({ imap, signIn }: Values): ConnectionRequest['signIn'] => {
    const ways = presetOf(imap.host)?.signIn ?? ['password'];
    return signIn !== '' && ways.includes(signIn) ? signIn : ways.includes('redirect') ? 'redirect' : 'password';
  };
  const bodyOf = (values: Values): ConnectionRequest => {
    const signIn = signInOf(values);
    const { imap, smtp, password } = values;
    const trimmed = (server: MailEndpoint): MailEndpoint => ({ ...server, host: server.host.trim() });
    return {
      imap: trimmed(imap),
      smtp: trimmed(smtp),
      userName: values.userName.trim(),
      signIn,
      ...(signIn === 'password' && password ? { password } : {}),
    };
  };
  const needsPassword = (values: Values): boolean => signInOf(values) === 'password' && !known?.hasSecret;
  const form = useSentForm<MailboxDetail, Values>({
    values: {
      imap: known?.imap ?? found?.imap ?? empty('imap'),
      smtp: known?.smtp ?? found?.smtp ?? empty('smtp'),
      userName: known?.userName ?? mailbox.address,
      signIn: known?.signIn ?? '',
      password: '',
    },
    faults: async (values) => ({
      ...(await faultsOf('putConnection', bodyOf(values))),
      ...(needsPassword(values) && !values.password ? { password: words.isMissing } : {}),
    }),
    send: async (values) => {
      const stored = await call('putConnection', { id: mailbox.id, body: bodyOf(values) });
      if (signInOf(values) === 'password') return call('checkMailbox', { id: mailbox.id, body: { from: 'name' } });
      const { url } = await call('beginRedirect', { id: mailbox.id });
      window.location.assign(url);
      return stored;
    },
    onDone: (stored, values) => signInOf(values) === 'password' && onStored(stored),
  });
  const values = form.fields.watch();
  const { imap, smtp } = values;
  const preset = presetOf(imap.host);
  const signIn = signInOf(values);
  return (
    <Form form={form} className="max-w-2xl space-y-3">
      {found && <p className="text-muted">{FOUND_BY[found.by]}</p>}
      {showServers ? (
        <>
          <Server label={words.readingImap} which="imap" form={form} />
          <Server label={words.sendingSmtp} which="smtp" form={form} />
        </>
      ) : (
        <p>
          {filled(words.forReadingForSending, {
            host: (
              <span className="font-mono text-[0.92em]">
                {imap.host}:{imap.port}
              </span>
            ),
            host2: (
              <span className="font-mono text-[0.92em]">
                {smtp.host === imap.host ? '' : smtp.host}:{smtp.port}
              </span>
            ),
          })}
          <Button className="ml-3" onClick={() => setShowServers(true)}>
            {words.anotherServer}
          </Button>
        </p>
      )}
      {(preset?.signIn.length ?? 0) > 1 && (
        <RadioField
          form={form}
          name="signIn"
          legend={words.howToSignIn}
          value={signIn}
          options={[
            { value: 'redirect', label: words.atYouAreLed(preset?.name ?? '') },
            { value: 'password', label: words.withTheMailboxsPassword },
          ]}
        />
      )}
      <div className="grid gap-3 sm:grid-cols-2">
        <TextField form={form} name="userName" label={words.nameToSignIn} required autoComplete="off" className="font-mono" />
        {signIn === 'password' && (
          <TextField
            form={form}
            name="password"
            label={words.passwordOfTheMailbox}
            {...(known?.hasSecret ? { hint: words.leftEmptyTheStored } : {})}
            type="password"
            autoComplete="off"
            autoFocus={!showServers}
            required={needsPassword(values)}
          />
        )}
      </div>
      <FormEnd
        form={form}
        label={signIn === 'redirect' ? words.goToAndSign(preset?.name ?? words.theProvider) : words.tryIt}
        disabled={imap.host.trim() === '' || smtp.host.trim() === ''}
      />
    </Form>
  );
}

function Server({ label, which, form }: { label: string; which: 'imap' | 'smtp'; form: SentForm<Values> }) {
  const { control, register, formState, setValue, getValues } = form.fields;
  const { field: security } = useController({ control, name: `${which}.security` });
  const faults = formState.errors[which];
  const texts = [faults?.message, faults?.host?.message, faults?.port?.message, faults?.security?.message].filter(Boolean);
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">{label}</legend>
      <div className="grid grid-cols-[minmax(0,1fr)_5.5rem] gap-2 sm:grid-cols-[minmax(0,1fr)_5.5rem_11rem]">
        <TextInput
          aria-label={words.server(label)}
          aria-invalid={faults?.host !== undefined || undefined}
          required
          className="font-mono"
          placeholder={`${which}.provider.example`}
          {...register(`${which}.host`)}
        />
        <TextInput
          aria-label={words.port(label)}
          aria-invalid={faults?.port !== undefined || undefined}
          required
          type="number"
          min={1}
          max={65_535}
          {...register(`${which}.port`, { valueAsNumber: true })}
        />
        <Select
          aria-label={words.security(label)}
          className="max-sm:col-span-2"
          value={security.value}
          onValue={(chosen) => {
            const usual = getValues(`${which}.port`) === PORTS[which][security.value];
            if (usual) setValue(`${which}.port`, PORTS[which][chosen as Security]);
            security.onChange(chosen);
          }}
        >
          <Option value="tls">{words.tlsFromTheStart}</Option>
          <Option value="starttls">{words.starttls}</Option>
        </Select>
      </div>
      {texts.map((text) => (
        <span key={text} role="alert" className="mt-1 block text-sm text-brick">
          {text}
        </span>
      ))}
    </fieldset>
  );
}
