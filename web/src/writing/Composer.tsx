import type { Outgoing, Sender } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { lazy, Suspense, useState } from 'react';
import { answersOf } from '../api/asked';
import { call } from '../api/call';
import { ApiFailure } from '../api/client';
import { useRefreshAll } from '../api/queries';
import { Button, Trouble, Waiting } from '../parts/basics';
import { exactMoment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { Option, Select } from '../parts/Select';
import { FilingMargin } from './FilingMargin';
import { KeptTexts } from './KeptTexts';
import { Quote, Signature } from './Quote';
import { useOutgoing, useSenders } from './queries';
import { SendBar } from './SendBar';
import type { Send } from './SendBar';
import { Recipients } from './Recipients';
import { useInsert } from './templates/useInsert';
import { useDraft } from './useDraft';
import type { Draft } from './useDraft';
import { composer as words } from './words';

const TextEditor = lazy(() => import('./TextEditor'));

interface Props {
  id: number;
  /** It is sent or discarded: there is nothing to write any more. */
  onGone: () => void;
  /** It is a draft again. */
  onBack: (id: number) => void;
}

/** One email that is being written: its text at the left, how it will be filed at the right. */
export function Composer({ id, onGone, onBack }: Props) {
  const outgoing = useOutgoing(id);
  if (outgoing.isError) return <Trouble error={outgoing.error} />;
  if (!outgoing.data) return <Waiting what={words.openingTheDraft} />;
  return <Loaded key={id} first={outgoing.data} onGone={onGone} onBack={onBack} />;
}

function Loaded({ first, onGone, onBack }: { first: Outgoing } & Omit<Props, 'id'>) {
  const draft = useDraft(first);
  const { content, change } = draft;
  const send = useSend(draft, onGone, onBack);
  const texts = useInsert(draft);
  const [hasCopies, setHasCopies] = useState(content.cc.length + content.bcc.length > 0);
  const [record] = content.filing.records;
  const recordKey = record && `${record.kind}:${record.id}`;
  const beside = [...content.to, ...content.cc, ...content.bcc].map(({ address }) => address);
  const senders = (useSenders().data?.senders ?? []).filter(({ isProven }) => isProven);
  const sender = senders.find((it) => keyOf(placeOf(it)) === keyOf(content));
  return (
    <form
      noValidate
      aria-label={content.subject || words.newEmail}
      className="grid min-h-0 grow grid-rows-[minmax(0,1fr)] gap-x-5 overflow-y-auto px-4 pt-1 pb-2 lg:grid-cols-[minmax(0,1fr)_clamp(11rem,26%,16rem)] lg:overflow-hidden"
      onSubmit={(event) => event.preventDefault()}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        if (event.dataTransfer.files.length === 0) return;
        event.preventDefault();
        draft.attach([...event.dataTransfer.files]);
      }}
    >
      <div className="flex min-h-0 min-w-0 flex-col">
        {senders.length > 1 && (
          <div className="flex items-center gap-2 border-b border-line py-1">
            <span className="w-14 shrink-0 text-sm text-muted">{words.from}</span>
            <Select
              aria-label={words.from}
              fit="words"
              value={keyOf(content)}
              onValue={(key) => {
                const chosen = senders.find((sender) => keyOf(placeOf(sender)) === key);
                if (chosen) change(placeOf(chosen));
              }}
            >
              {senders.map((sender) => (
                <Option key={keyOf(placeOf(sender))} value={keyOf(placeOf(sender))}>
                  {sender.address}
                </Option>
              ))}
            </Select>
          </div>
        )}
        <Recipients
          label={words.to}
          people={content.to}
          record={recordKey}
          beside={beside}
          isFocused={content.to.length === 0}
          onPeople={(to) => change({ to })}
        />
        {hasCopies ? (
          <>
            <Recipients label={words.cc} people={content.cc} record={recordKey} beside={beside} onPeople={(cc) => change({ cc })} />
            <Recipients label={words.bcc} people={content.bcc} record={recordKey} beside={beside} onPeople={(bcc) => change({ bcc })} />
          </>
        ) : null}
        <div className="flex items-center gap-2 border-b border-line py-1">
          <label htmlFor={`subject-${first.id}`} className="w-14 shrink-0 text-sm text-muted">
            {words.subject}
          </label>
          <input
            id={`subject-${first.id}`}
            className="min-h-7 min-w-0 grow bg-transparent outline-none"
            maxLength={998}
            value={content.subject}
            onChange={(event) => change({ subject: event.target.value })}
          />
          {!hasCopies && (
            <button
              type="button"
              className="min-h-7 text-sm whitespace-nowrap text-spruce hover:underline"
              onClick={() => setHasCopies(true)}
            >
              {words.addCcAndBcc}
            </button>
          )}
        </div>
        <Suspense fallback={<Waiting what={words.openingTheDraft} />}>
          <TextEditor
            label={words.text}
            html={content.html}
            isFocused={content.to.length > 0}
            onHtml={(html) => change({ html })}
            onReady={texts.onEditor}
            onSpace={texts.expand}
            onPicture={draft.addPicture}
            beside={<KeptTexts draft={draft} texts={texts} />}
            onSend={() => send.now()}
          />
        </Suspense>
        {sender && sender.signature !== '' && (
          <Signature sender={sender} isSent={content.withSignature} onSent={(withSignature) => change({ withSignature })} />
        )}
        {draft.stored.quote !== '' && (
          <Quote html={draft.stored.quote} isSent={content.withQuote} onSent={(withQuote) => change({ withQuote })} />
        )}
        <Trouble error={send.error ?? draft.error ?? texts.error}>
          {send.agree && (
            <Button className="mt-1" onClick={send.agree}>
              {words.agreeAndSend}
            </Button>
          )}
        </Trouble>
        <SendBar draft={draft} send={send} />
      </div>
      <FilingMargin draft={draft} />
    </form>
  );
}

/** An address to send from, as a draft names it. */
const placeOf = ({ mailboxId, address, isAlias }: Sender) => ({ mailboxId, fromAddress: isAlias ? address : null });
const keyOf = ({ mailboxId, fromAddress }: ReturnType<typeof placeOf>): string => `${mailboxId} ${fromAddress ?? ''}`;

interface Sending extends Send {
  /** Sends it after all, and agrees to what it was held for; null: it was held for nothing of that kind. */
  agree: (() => void) | null;
  error: Error | null;
}

function useSend(draft: Draft, onGone: () => void, onBack: (id: number) => void): Sending {
  const client = useQueryClient();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const { id } = draft.stored;
  const takeBack = async (): Promise<void> => {
    await call('takeBackOutgoing', { id });
    await client.invalidateQueries(answersOf('getOutgoing', 'listOutgoing'));
    onBack(id);
    notice(words.takenBack);
  };
  const sending = useMutation({
    mutationFn: async ({ at, agree }: { at: string | null; agree: boolean }) => {
      const { revision } = await draft.flush();
      return call('sendOutgoing', { id, body: { revision, at, ...(agree ? { agree } : {}) } });
    },
    onSuccess: async ({ dueAt }, { at }) => {
      onGone();
      await client.invalidateQueries(answersOf('getOutgoing', 'listOutgoing'));
      notice(at === null ? words.sentInSeconds : words.sentAt(exactMoment(dueAt ?? at)), { label: words.takeBack, run: takeBack });
    },
  });
  const discarding = useMutation({
    mutationFn: async () => {
      await draft.flush().catch(() => undefined);
      return call('discardOutgoing', { id });
    },
    onSuccess: async () => {
      onGone();
      await refresh();
      notice(words.discarded);
    },
  });
  return {
    now: (at) => sending.mutate({ at: at ?? null, agree: false }),
    agree:
      sending.error instanceof ApiFailure && sending.error.code === 'agree-first' && sending.variables
        ? () => sending.mutate({ at: sending.variables.at, agree: true })
        : null,
    discard: () => discarding.mutate(),
    pending: sending.isPending || discarding.isPending,
    error: sending.error ?? discarding.error,
  };
}
