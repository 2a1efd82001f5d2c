import type { Answer } from '@fulvet/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { answersOf } from '../api/asked';
import { useState } from 'react';
import { useSecondFactor } from './queries';
import { Button, Trouble } from '../parts/basics';
import { Form, FormEnd, TextField } from '../parts/form/Form';
import type { SentForm } from '../parts/form/useSentForm';
import { useBodyForm } from '../parts/form/useBodyForm';
import { CopyText } from '../parts/CopyText';
import { useNotice } from '../parts/Notices';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { secondFactor as words } from './words';

/** A code from an authenticator program, asked for at sign-in beside the password. */
export function SecondFactor({ onDone }: { onDone?: () => void }) {
  const factor = useSecondFactor();
  const client = useQueryClient();
  const notice = useNotice();
  const [codes, setCodes] = useState<string[] | null>(null);
  const [begun, setBegun] = useState<Answer<'beginSecondFactor'> | null>(null);
  const again = (): Promise<void> => client.invalidateQueries(answersOf('getSecondFactor'));
  const begin = useBodyForm('beginSecondFactor', {
    values: { password: '' },
    input: (body) => ({ body }),
    onDone: (answer) => {
      begin.fields.reset();
      setBegun(answer);
    },
  });
  const confirm = useBodyForm('confirmSecondFactor', {
    values: { code: '' },
    input: (body) => ({ body }),
    onDone: async (done) => {
      setCodes(done.recoveryCodes);
      setBegun(null);
      await again();
    },
  });
  const end = useBodyForm('endSecondFactor', {
    values: { password: '' },
    input: (body) => ({ body }),
    onDone: async () => {
      end.fields.reset();
      await again();
      notice(words.theSecondFactorIs);
    },
  });
  const on = factor.data?.on ?? false;
  return (
    <section aria-label={words.secondFactor}>
      <h2 className="mb-1 text-lg">{words.secondFactor}</h2>
      {codes && (
        <div role="status" className="mb-3 rounded border border-focus px-3 py-2">
          <p className="font-medium">{words.itIsOnKeep}</p>
          <ul className="my-2 grid grid-cols-2 gap-x-6 font-mono text-sm sm:grid-cols-3">
            {codes.map((value) => (
              <li key={value}>{value}</li>
            ))}
          </ul>
          <CopyText text={codes.join(' ')} label={words.copyAllCodes} />
          {onDone && (
            <Button kind="main" className="mt-2" onClick={onDone}>
              {words.iHaveKeptThem}
            </Button>
          )}
        </div>
      )}
      {!codes && on && (
        <p className="mb-2">
          {filled(words.atSignInA, { on: <span className="text-moss">{words.on}</span>, recoveryCodes: factor.data?.recoveryCodes })}
        </p>
      )}
      {!codes && !on && !begun && <p className="mb-2 text-muted">{words.offWithItA}</p>}
      {begun && (
        <Form form={confirm}>
          <p>{words.takeThisUpWith}</p>
          <div className="flex flex-wrap items-start gap-4">
            <QrCode text={begun.uri} />
            <div className="min-w-0 grow basis-56">
              <span className="text-sm text-muted">{words.orTypeTheKey}</span>
              <CopyText text={begun.key} label={words.copyTheKey} />
              <div className="mt-3">
                <TextField
                  form={confirm}
                  name="code"
                  label={common.code}
                  autoFocus
                  inputMode="numeric"
                  autoComplete="one-time-code"
                  maxLength={7}
                />
              </div>
            </div>
          </div>
          <FormEnd form={confirm} label={words.switchItOn} />
        </Form>
      )}
      {!begun &&
        !codes &&
        (on ? <Switch form={end} label={words.switchItOff} kind="danger" /> : <Switch form={begin} label={words.setItUp} kind="main" />)}
      <Trouble error={factor.error} />
    </section>
  );
}

/** The password that switching takes. */
function Switch({ form, label, kind }: { form: SentForm<{ password: string }>; label: string; kind: 'main' | 'danger' }) {
  return (
    <Form form={form} className="flex flex-wrap items-end gap-2">
      <div className="min-w-48 grow">
        <TextField form={form} name="password" label={words.yourPassword} type="password" autoComplete="current-password" />
      </div>
      <FormEnd form={form} kind={kind} label={label} />
    </Form>
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
    <img src={drawn.data} alt={words.theKeyAsA} className="size-44 rounded bg-white p-1" />
  ) : (
    <div className="size-44 rounded bg-sunk" />
  );
}
