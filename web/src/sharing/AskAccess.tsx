import type { AccessAsk } from '@fulvet/contract';
import { useState } from 'react';
import { useRequests } from './queries';
import { stepOf, useWithdrawRequest } from './useSharing';
import { useRefreshAll } from '../api/queries';
import { Button } from '../parts/basics';
import { Form, FormEnd, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { askAccess as words } from './words';

type About = Pick<AccessAsk, 'scope' | 'emailId' | 'record'>;

/** Asks the owners to let one read: one click, with a line of why where one wants to. What is asked already says so. */
export function AskAccess({ about, label }: { about: About; label: string }) {
  const [isExplained, setIsExplained] = useState(false);
  const requests = useRequests();
  const open = requests.data?.mine.find(
    (item) =>
      item.state === 'open' &&
      item.scope === about.scope &&
      item.emailId === (about.emailId ?? null) &&
      (item.record?.id ?? null) === (about.record?.id ?? null),
  );
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  const form = useBodyForm('askAccess', {
    values: { note: '' },
    input: ({ note }) => ({ body: { ...about, note } }),
    onDone: async (answer) => {
      await refresh();
      notice(words.askedTheOwnerSees, undo(stepOf(answer)));
    },
    checkedBy: 'server',
  });
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
    <Form form={form} className="mt-2 space-y-1.5">
      {isExplained && <TextField form={form} name="note" label={words.whyYouNeedIt} autoFocus maxLength={500} />}
      <div className="flex flex-wrap gap-1.5">
        <FormEnd form={form} label={label} />
        {!isExplained && (
          <Button kind="quiet" onClick={() => setIsExplained(true)}>
            {words.withAWord}
          </Button>
        )}
      </div>
    </Form>
  );
}
