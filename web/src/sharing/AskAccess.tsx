import type { AccessAsk } from '@fulvet/contract';
import { useState } from 'react';
import { useRequests } from './queries';
import { useSharing, useWithdrawRequest } from './useSharing';
import { call } from '../api/call';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { askAccess as words } from './words';

type About = Pick<AccessAsk, 'scope' | 'emailId' | 'record'>;

/** Asks the owners to let one read: one click, with a line of why where one wants to. What is asked already says so. */
export function AskAccess({ about, label }: { about: About; label: string }) {
  const [note, setNote] = useState<string | null>(null);
  const requests = useRequests();
  const open = requests.data?.mine.find(
    (item) =>
      item.state === 'open' &&
      item.scope === about.scope &&
      item.emailId === (about.emailId ?? null) &&
      (item.record?.id ?? null) === (about.record?.id ?? null),
  );
  const ask = useSharing(
    () => call('askAccess', { body: { ...about, note: note ?? '' } }),
    () => words.askedTheOwnerSees,
  );
  const withdraw = useWithdrawRequest();
  if (open)
    return (
      <p className="mt-2 text-sm text-muted">
        {words.youHaveAskedFor(open.owner.name)}{' '}
        <button type="button" className="text-spruce hover:underline" onClick={() => withdraw.mutate(open.id)}>
          {words.withdraw}
        </button>
      </p>
    );
  return (
    <div className="mt-2">
      <div className="flex flex-wrap gap-1.5">
        <Button kind="main" disabled={ask.isPending} onClick={() => ask.mutate(undefined)}>
          {label}
        </Button>
        {note === null && (
          <Button kind="quiet" onClick={() => setNote('')}>
            {words.withAWord}
          </Button>
        )}
      </div>
      {note !== null && (
        <div className="mt-1.5">
          <Field label={words.whyYouNeedIt}>
            <TextInput
              autoFocus
              maxLength={500}
              value={note}
              onChange={(event) => setNote(event.target.value)}
              onKeyDown={(event) => event.key === 'Enter' && ask.mutate(undefined)}
            />
          </Field>
        </div>
      )}
      <Trouble error={ask.error} />
    </div>
  );
}
