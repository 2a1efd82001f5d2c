import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useSecondFactor } from './queries';
import { call } from '../api/call';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { CopyText } from '../parts/CopyText';
import { useNotice } from '../parts/Notices';

/** A code from an authenticator program, asked for at sign-in beside the password. */
export function SecondFactor({ onDone }: { onDone?: () => void }) {
  const factor = useSecondFactor();
  const client = useQueryClient();
  const notice = useNotice();
  const [password, setPassword] = useState('');
  const [code, setCode] = useState('');
  const [codes, setCodes] = useState<string[] | null>(null);
  const begin = useMutation({ mutationFn: () => call('beginSecondFactor', { body: { password } }) });
  const confirm = useMutation({
    mutationFn: () => call('confirmSecondFactor', { body: { code } }),
    onSuccess: async (done) => {
      setCodes(done.recoveryCodes);
      begin.reset();
      setPassword('');
      setCode('');
      await client.invalidateQueries({ queryKey: ['second-factor'] });
    },
  });
  const end = useMutation({
    mutationFn: () => call('endSecondFactor', { body: { password } }),
    onSuccess: async () => {
      setPassword('');
      await client.invalidateQueries({ queryKey: ['second-factor'] });
      notice('The second factor is off. The password alone is enough.');
    },
  });
  const on = factor.data?.on ?? false;
  return (
    <section aria-label="Second factor">
      <h2 className="mb-1 text-lg">Second factor</h2>
      {codes && (
        <div role="status" className="mb-3 rounded border border-focus px-3 py-2">
          <p className="font-medium">
            It is on. Keep these recovery codes: each is good once, when the device is lost. They are not shown again.
          </p>
          <ul className="my-2 grid grid-cols-2 gap-x-6 font-mono text-sm sm:grid-cols-3">
            {codes.map((value) => (
              <li key={value}>{value}</li>
            ))}
          </ul>
          <CopyText text={codes.join(' ')} label="Copy all codes" />
          {onDone && (
            <Button kind="main" className="mt-2" onClick={onDone}>
              I have kept them
            </Button>
          )}
        </div>
      )}
      {!codes && on && (
        <p className="mb-2">
          <span className="text-moss">On.</span> At sign-in a code of your authenticator program is asked for. {factor.data?.recoveryCodes}{' '}
          recovery codes are left.
        </p>
      )}
      {!codes && !on && !begin.data && (
        <p className="mb-2 text-muted">
          Off. With it, a stolen password alone opens nothing: a code of a program on your phone is asked for, too.
        </p>
      )}
      {begin.data ? (
        <form
          className="space-y-3"
          onSubmit={(event) => {
            event.preventDefault();
            confirm.mutate();
          }}
        >
          <p>Take this up with your authenticator program, and give the code that it shows.</p>
          <div className="flex flex-wrap items-start gap-4">
            <QrCode text={begin.data.uri} />
            <div className="min-w-0 grow basis-56">
              <span className="text-sm text-muted">Or type the key:</span>
              <CopyText text={begin.data.key} label="Copy the key" />
              <div className="mt-3">
                <Field label="Code" error={confirm.error?.message}>
                  <TextInput
                    autoFocus
                    inputMode="numeric"
                    autoComplete="one-time-code"
                    required
                    minLength={6}
                    maxLength={7}
                    value={code}
                    onChange={(event) => setCode(event.target.value)}
                  />
                </Field>
              </div>
            </div>
          </div>
          <Button kind="main" type="submit" disabled={confirm.isPending}>
            Switch it on
          </Button>
        </form>
      ) : (
        !codes && (
          <form
            className="flex flex-wrap items-end gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              if (on) end.mutate();
              else begin.mutate();
            }}
          >
            <div className="min-w-48 grow">
              <Field label="Your password">
                <TextInput
                  type="password"
                  autoComplete="current-password"
                  required
                  value={password}
                  onChange={(event) => setPassword(event.target.value)}
                />
              </Field>
            </div>
            <Button type="submit" kind={on ? 'danger' : 'main'} disabled={begin.isPending || end.isPending || password === ''}>
              {on ? 'Switch it off' : 'Set it up'}
            </Button>
          </form>
        )
      )}
      <Trouble error={begin.error ?? end.error ?? factor.error} />
    </section>
  );
}

/** The text as a picture that a phone's camera reads; drawn by the browser, sent nowhere. */
function QrCode({ text }: { text: string }) {
  const drawn = useQuery({
    queryKey: ['qr', text],
    queryFn: async () => {
      const { default: qr } = await import('qrcode');
      return qr.toDataURL(text, { margin: 1, scale: 5 });
    },
    gcTime: 0,
  });
  return drawn.data ? (
    <img src={drawn.data} alt="The key as a picture for the camera" className="size-44 rounded bg-white p-1" />
  ) : (
    <div className="size-44 rounded bg-sunk" />
  );
}
