import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { answersOf, answerKey } from '../api/asked';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { call } from '../api/call';
import type { Draft } from './queries';
import { Button, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { PutLive } from './PutLive';
import { draftBar as words } from './words';

/** The draft in short: what it would change, and the ways on: try it out, put it live, throw it away. */
export function DraftBar({ draft }: { draft: Draft }) {
  const [asking, setAsking] = useState<'live' | 'drop' | null>(null);
  const go = useNavigate();
  const client = useQueryClient();
  const tryOut = useMutation({
    mutationFn: () => call('startTrial', { body: {} }),
    onSuccess: async (trial) => {
      await client.invalidateQueries(answersOf('listTrials'));
      await go(`/trials/${trial.id}`);
    },
  });
  if (draft.revision === 0 || draft.differences.length === 0) return null;
  return (
    <section aria-label={words.theDraft} className="mb-4 rounded border border-focus bg-raised px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <strong>{words.draftChangeNotIn(draft.differences.length)}</strong>
        <span className="grow text-sm text-muted">{draft.by && words.lastEditedBy(draft.by)}</span>
        <Button disabled={tryOut.isPending} onClick={() => tryOut.mutate()}>
          {words.runATrialOn}
        </Button>
        <Button kind="main" onClick={() => setAsking('live')}>
          {words.putLive}
        </Button>
        <Button kind="quiet" onClick={() => setAsking('drop')}>
          {words.discard}
        </Button>
      </div>
      <ul className="mt-1 list-disc pl-5 text-sm">
        {draft.differences.slice(0, 4).map((difference) => (
          <li key={difference}>{difference}</li>
        ))}
        {draft.differences.length > 4 && <li>{words.andMore(draft.differences.length - 4)}</li>}
      </ul>
      <Trouble error={tryOut.error} />
      {asking === 'live' && <PutLive draft={draft} onClose={() => setAsking(null)} />}
      {asking === 'drop' && <Drop draft={draft} onClose={() => setAsking(null)} />}
    </section>
  );
}

function Drop({ draft, onClose }: { draft: Draft; onClose: () => void }) {
  const client = useQueryClient();
  const notice = useNotice();
  const undo = useUndo();
  const drop = useMutation({
    mutationFn: () => call('dropDraft'),
    onSuccess: (state) => {
      client.setQueryData(answerKey('getDraft'), state);
      notice(words.theDraftWasDiscarded, undo(state.undo));
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title={words.discardTheDraft}>
      <p>{words.changeWouldBeLost(draft.differences.length)}</p>
      <Trouble error={drop.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>{words.keepDraft}</Button>
        <Button kind="danger" disabled={drop.isPending} onClick={() => drop.mutate()}>
          {words.discardDraft}
        </Button>
      </div>
    </Modal>
  );
}
