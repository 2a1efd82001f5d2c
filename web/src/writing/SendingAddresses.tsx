import type { Sender } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { useController } from 'react-hook-form';
import { answersOf } from '../api/asked';
import { call } from '../api/call';
import { Button, Trouble, Waiting } from '../parts/basics';
import { Form, FormEnd, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import type { SentForm } from '../parts/form/useSentForm';
import { Moment } from '../parts/Moment';
import { filled } from '../parts/filled';
import { useNotice } from '../parts/Notices';
import { common } from '../parts/words';
import { useSenders } from './queries';
import { sendingAddresses as words } from './words';

const TextEditor = lazy(() => import('./TextEditor'));
/** What a signature can name of whoever sends. */
const FIELDS = [
  { key: 'sender.name', label: words.fieldName },
  { key: 'sender.email', label: words.fieldEmail },
];

const placeOf = ({ mailboxId, address }: Sender) => ({ mailboxId, address });

/** Addresses that the member sends from: name, signature, and aliases that are to be proven. */
export function SendingAddresses() {
  const senders = useSenders();
  const [open, setOpen] = useState<string | null>(null);
  const list = senders.data?.senders ?? [];
  return (
    <section aria-label={words.addressesYouSendFrom}>
      <h2 className="mb-1.5 text-lg">{words.addressesYouSendFrom}</h2>
      <Trouble error={senders.error} />
      {senders.data && list.length === 0 && <p className="text-muted">{words.connectAMailboxFirst}</p>}
      <ul className="divide-y divide-line border-y border-line">
        {list.map((sender) => {
          const key = `${sender.mailboxId} ${sender.address}`;
          return (
            <li key={key} className="py-1.5">
              <div className="flex flex-wrap items-baseline gap-x-3">
                <span className="min-w-0 grow basis-48">
                  <span className="block font-mono text-[0.92em] wrap-anywhere">{sender.address}</span>
                  <span className="block text-sm text-muted">
                    {sender.isProven
                      ? sender.signature === ''
                        ? words.noSignature(sender.name)
                        : words.withSignature(sender.name)
                      : words.notProven}
                  </span>
                </span>
                {sender.isProven ? (
                  <Button kind="quiet" aria-expanded={open === key} onClick={() => setOpen(open === key ? null : key)}>
                    {open === key ? words.close : words.nameAndSignature}
                  </Button>
                ) : null}
              </div>
              {!sender.isProven && <Proving sender={sender} />}
              {sender.isProven && open === key && <NameAndSignature sender={sender} onDone={() => setOpen(null)} />}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function useTake(): () => Promise<void> {
  const client = useQueryClient();
  return () => client.invalidateQueries(answersOf('listSenders'));
}

interface Signed {
  name: string;
  signature: string;
}

function NameAndSignature({ sender, onDone }: { sender: Sender; onDone: () => void }) {
  const notice = useNotice();
  const take = useTake();
  const form = useBodyForm('saveSender', {
    values: { name: sender.name, signature: sender.signature },
    input: (values) => ({ body: { ...placeOf(sender), ...values } }),
    onDone: async () => {
      await take();
      notice(words.saved(sender.address));
      onDone();
    },
  });
  return (
    <Form form={form} className="mt-2 space-y-3" label={words.nameAndSignature}>
      <TextField form={form} name="name" label={words.nameAsSent} />
      <div>
        <span className="mb-1 block text-sm font-medium">{words.signature}</span>
        <SignatureField form={form} />
      </div>
      <FormEnd form={form} kind="plain" label={common.save} />
    </Form>
  );
}

function SignatureField({ form }: { form: SentForm<Signed> }) {
  const { field } = useController({ control: form.fields.control, name: 'signature' });
  return (
    <div className="rounded border border-line bg-raised px-2 pt-1">
      <Suspense fallback={<Waiting what={common.loading} />}>
        <TextEditor label={words.signature} html={field.value} isFocused={false} fields={FIELDS} onHtml={field.onChange} />
      </Suspense>
    </div>
  );
}

/** An alias is proven by a code that is sent to it. */
function Proving({ sender }: { sender: Sender }) {
  const notice = useNotice();
  const take = useTake();
  const ask = useMutation({ mutationFn: () => call('sendSenderCode', { body: placeOf(sender) }), onSuccess: take });
  const form = useBodyForm('confirmSender', {
    values: { code: '' },
    input: (values) => ({ body: { ...placeOf(sender), ...values } }),
    onDone: async () => {
      await take();
      notice(words.proven(sender.address));
    },
  });
  if (sender.codeSentAt === null)
    return (
      <div className="mt-1">
        <Button disabled={ask.isPending} onClick={() => ask.mutate()}>
          {words.sendACode}
        </Button>
        <Trouble error={ask.error} />
      </div>
    );
  return (
    <Form form={form} className="mt-1 space-y-2" label={words.codeFor(sender.address)}>
      <p className="text-sm text-muted">{filled(words.codeWasSent, { when: <Moment at={sender.codeSentAt} /> })}</p>
      <TextField
        form={form}
        name="code"
        label={words.code}
        inputMode="numeric"
        autoComplete="one-time-code"
        maxLength={6}
        className="max-w-32"
      />
      <div className="flex flex-wrap items-start gap-2">
        <FormEnd form={form} kind="plain" label={words.confirm} />
        <Button kind="quiet" disabled={ask.isPending} onClick={() => ask.mutate()}>
          {words.sendAnotherCode}
        </Button>
      </div>
      <Trouble error={ask.error} />
    </Form>
  );
}
