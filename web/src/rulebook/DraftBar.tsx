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
import { counted } from '../parts/numbers';
import { PutLive } from './PutLive';

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
    <section aria-label="The draft" className="mb-4 rounded border border-focus bg-raised px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <strong>Draft: {counted(draft.differences.length, 'change')}, not in force</strong>
        <span className="grow text-sm text-muted">{draft.by && `last edited by ${draft.by}`}</span>
        <Button disabled={tryOut.isPending} onClick={() => tryOut.mutate()}>
          Run a trial on past mail
        </Button>
        <Button kind="main" onClick={() => setAsking('live')}>
          Put live …
        </Button>
        <Button kind="quiet" onClick={() => setAsking('drop')}>
          Discard …
        </Button>
      </div>
      <ul className="mt-1 list-disc pl-5 text-sm">
        {draft.differences.slice(0, 4).map((difference) => (
          <li key={difference}>{difference}</li>
        ))}
        {draft.differences.length > 4 && <li>and {draft.differences.length - 4} more</li>}
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
      notice('The draft was discarded.', undo(state.undo));
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title="Discard the draft?">
      <p>{counted(draft.differences.length, 'change')} would be lost. What is in force stays as it is.</p>
      <Trouble error={drop.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Keep draft</Button>
        <Button kind="danger" disabled={drop.isPending} onClick={() => drop.mutate()}>
          Discard draft
        </Button>
      </div>
    </Modal>
  );
}
