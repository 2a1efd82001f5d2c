import type { FoundServers, MailboxDetail, MailEndpoint } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { ApiFailure } from '../api/client';
import { call } from '../api/call';
import { usePresets } from './queries';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { Option, Select } from '../parts/Select';

type Security = MailEndpoint['security'];

const PORTS: Record<'imap' | 'smtp', Record<Security, number>> = { imap: { tls: 993, starttls: 143 }, smtp: { tls: 465, starttls: 587 } };
const FOUND_BY = {
  'service records': 'The domain itself says where its mail servers are.',
  preset: 'This installation knows the provider.',
  nothing: 'The domain does not say where its mail servers are. Its provider’s help pages do: look for IMAP and SMTP.',
} as const;

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
  const empty = (which: 'imap' | 'smtp'): MailEndpoint => ({ host: '', port: PORTS[which].tls, security: 'tls' });
  const [imap, setImap] = useState<MailEndpoint>(known?.imap ?? found?.imap ?? empty('imap'));
  const [smtp, setSmtp] = useState<MailEndpoint>(known?.smtp ?? found?.smtp ?? empty('smtp'));
  const [userName, setUserName] = useState(known?.userName ?? mailbox.address);
  const [chosen, setChosen] = useState<'password' | 'redirect' | null>(known?.signIn ?? null);
  const [password, setPassword] = useState('');
  const [showServers, setShowServers] = useState(known === null && found?.imap == null);
  const presets = usePresets();
  const preset = presets.data?.presets.find((item) => item.hosts.includes(imap.host.trim().toLowerCase()));
  const ways = preset?.signIn ?? ['password'];
  const signIn = chosen !== null && ways.includes(chosen) ? chosen : ways.includes('redirect') ? 'redirect' : 'password';
  const save = useMutation({
    mutationFn: async () => {
      const stored = await call('putConnection', {
        id: mailbox.id,
        body: {
          imap,
          smtp,
          userName: userName.trim(),
          signIn,
          ...(signIn === 'password' && password ? { password } : {}),
        },
      });
      if (signIn === 'redirect') {
        const { url } = await call('beginRedirect', { id: mailbox.id });
        window.location.assign(url);
        return stored;
      }
      return call('checkMailbox', { id: mailbox.id, body: { from: 'name' } });
    },
    onSuccess: (stored) => signIn === 'password' && onStored(stored),
  });
  const fields = save.error instanceof ApiFailure ? save.error.fields : {};
  const needsPassword = signIn === 'password' && !known?.hasSecret;
  return (
    <form
      className="max-w-2xl space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      {found && <p className="text-muted">{FOUND_BY[found.by]}</p>}
      {showServers ? (
        <>
          <Server label="Reading (IMAP)" which="imap" value={imap} onChange={setImap} fields={fields} />
          <Server label="Sending (SMTP)" which="smtp" value={smtp} onChange={setSmtp} fields={fields} />
        </>
      ) : (
        <p>
          <span className="font-mono text-[0.92em]">
            {imap.host}:{imap.port}
          </span>{' '}
          for reading,{' '}
          <span className="font-mono text-[0.92em]">
            {smtp.host === imap.host ? '' : smtp.host}:{smtp.port}
          </span>{' '}
          for sending
          <Button className="ml-3" onClick={() => setShowServers(true)}>
            Another server
          </Button>
        </p>
      )}
      {ways.length > 1 && (
        <fieldset>
          <legend className="mb-1 text-sm font-medium">How to sign in</legend>
          <label className="flex gap-2 py-0.5">
            <input type="radio" name="sign-in" checked={signIn === 'redirect'} onChange={() => setChosen('redirect')} /> At {preset?.name}:
            you are led there and give permission; no password comes here
          </label>
          <label className="flex gap-2 py-0.5">
            <input type="radio" name="sign-in" checked={signIn === 'password'} onChange={() => setChosen('password')} /> With the mailbox’s
            password
          </label>
        </fieldset>
      )}
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="Name to sign in with" error={fields.userName}>
          <TextInput
            required
            name="userName"
            autoComplete="off"
            className="font-mono"
            value={userName}
            onChange={(event) => setUserName(event.target.value)}
          />
        </Field>
        {signIn === 'password' && (
          <Field
            label="Password of the mailbox"
            error={fields.password}
            {...(known?.hasSecret ? { hint: 'Left empty, the stored one is kept.' } : {})}
          >
            <TextInput
              type="password"
              name="mail-password"
              autoComplete="off"
              autoFocus={!showServers}
              required={needsPassword}
              value={password}
              onChange={(event) => setPassword(event.target.value)}
            />
          </Field>
        )}
      </div>
      <Trouble error={Object.keys(fields).length > 0 ? null : save.error} />
      <Button kind="main" type="submit" disabled={save.isPending || imap.host === '' || smtp.host === ''}>
        {signIn === 'redirect' ? `Go to ${preset?.name ?? 'the provider'} and sign in` : 'Try it'}
      </Button>
    </form>
  );
}

function Server({
  label,
  which,
  value,
  onChange,
  fields,
}: {
  label: string;
  which: 'imap' | 'smtp';
  value: MailEndpoint;
  onChange: (value: MailEndpoint) => void;
  fields: Readonly<Record<string, string>>;
}) {
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">{label}</legend>
      <div className="grid grid-cols-[minmax(0,1fr)_5.5rem] gap-2 sm:grid-cols-[minmax(0,1fr)_5.5rem_11rem]">
        <TextInput
          aria-label={`${label}: server`}
          required
          name={`${which}-host`}
          className="font-mono"
          placeholder={`${which}.provider.example`}
          value={value.host}
          onChange={(event) => onChange({ ...value, host: event.target.value.trim() })}
        />
        <TextInput
          aria-label={`${label}: port`}
          required
          type="number"
          min={1}
          max={65_535}
          name={`${which}-port`}
          value={value.port}
          onChange={(event) => onChange({ ...value, port: Number(event.target.value) })}
        />
        <Select
          aria-label={`${label}: security`}
          className="max-sm:col-span-2"
          value={value.security}
          onValue={(chosen) => {
            const security = chosen as Security;
            const usual = value.port === PORTS[which][value.security];
            onChange({ ...value, security, port: usual ? PORTS[which][security] : value.port });
          }}
        >
          <Option value="tls">TLS from the start</Option>
          <Option value="starttls">STARTTLS</Option>
        </Select>
      </div>
      {Object.entries(fields)
        .filter(([name]) => name.startsWith(which))
        .map(([name, text]) => (
          <span key={name} role="alert" className="mt-1 block text-sm text-brick">
            {text}
          </span>
        ))}
    </fieldset>
  );
}
