import type { RulebookState, Trial } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { api } from '../api/client';
import type { Draft } from '../api/ruleQueries';
import { useTrials } from '../api/ruleQueries';
import { useRefreshAll } from '../api/queries';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { count, counted } from '../parts/numbers';

/** The draft in short: what it would change, and the ways on: try it out, put it live, throw it away. */
export function DraftBar({ draft }: { draft: Draft }) {
  const [asking, setAsking] = useState<'live' | 'drop' | null>(null);
  const go = useNavigate();
  const client = useQueryClient();
  const tryOut = useMutation({
    mutationFn: () => api<Trial>('POST', '/trials', {}),
    onSuccess: async (trial) => {
      await client.invalidateQueries({ queryKey: ['trials'] });
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
          Try it out on past mail
        </Button>
        <Button kind="main" onClick={() => setAsking('live')}>
          Put live …
        </Button>
        <Button kind="quiet" onClick={() => setAsking('drop')}>
          Throw away …
        </Button>
      </div>
      <ul className="mt-1 list-disc pl-5 text-sm">
        {draft.differences.slice(0, 4).map((one) => (
          <li key={one}>{one}</li>
        ))}
        {draft.differences.length > 4 && <li>and {draft.differences.length - 4} more</li>}
      </ul>
      <Trouble error={tryOut.error} />
      {asking === 'live' && <PutLive draft={draft} onClose={() => setAsking(null)} />}
      {asking === 'drop' && <Drop draft={draft} onClose={() => setAsking(null)} />}
    </section>
  );
}

function PutLive({ draft, onClose }: { draft: Draft; onClose: () => void }) {
  const [note, setNote] = useState('');
  const [past, setPast] = useState(false);
  const refresh = useRefreshAll();
  const notice = useNotice();
  const tried = useTrials().data?.trials.find((one) => one.isDraft && one.state === 'done');
  const live = useMutation({
    mutationFn: async () => {
      const state = await api<RulebookState>('POST', '/rulebook/draft/live', { revision: draft.revision, note });
      if (past) await api('POST', '/decide');
      return state;
    },
    onSuccess: async (state) => {
      onClose();
      await refresh();
      notice(
        past
          ? `Version ${state.version} is in force, and past mail is being decided again.`
          : `Version ${state.version} is in force for new mail.`,
      );
    },
  });
  return (
    <Modal open onClose={onClose} title="Put the draft live">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          live.mutate();
        }}
      >
        <ul className="list-disc pl-5">
          {draft.differences.map((one) => (
            <li key={one}>{one}</li>
          ))}
        </ul>
        {tried?.summary ? (
          <p>
            Tried out:{' '}
            <Link className="text-spruce underline" to={`/trials/${tried.id}`}>
              of {counted(tried.summary.emails, 'email')}, {count(tried.summary.changed)} would change
            </Link>
            {tried.summary.newlySeen > 0 && (
              <strong className="text-brick">; {counted(tried.summary.newlySeen, 'email')} would be seen by everyone</strong>
            )}
            .
          </p>
        ) : (
          <p className="font-medium text-ochre">This draft has not been tried out on past mail yet.</p>
        )}
        <fieldset className="space-y-1">
          <legend className="sr-only">Past mail</legend>
          <label className="flex gap-2">
            <input type="radio" name="past" checked={!past} onChange={() => setPast(false)} /> For new mail from now on; past mail stays as
            decided
          </label>
          <label className="flex gap-2">
            <input type="radio" name="past" checked={past} onChange={() => setPast(true)} /> For new mail, and decide all past mail again
          </label>
        </fieldset>
        <Field label="Why (for whoever reads the versions later)">
          <TextInput value={note} maxLength={500} onChange={(event) => setNote(event.target.value)} />
        </Field>
        <Trouble error={live.error} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Not yet</Button>
          <Button kind="main" type="submit" disabled={live.isPending}>
            {past
              ? `Put live${tried?.summary ? `, and change ${counted(tried.summary.changed, 'past email')}` : ' and decide past mail again'}`
              : 'Put live for new mail'}
          </Button>
        </div>
      </form>
    </Modal>
  );
}

function Drop({ draft, onClose }: { draft: Draft; onClose: () => void }) {
  const client = useQueryClient();
  const drop = useMutation({
    mutationFn: () => api<Draft>('DELETE', '/rulebook/draft'),
    onSuccess: (state) => {
      client.setQueryData(['draft'], state);
      onClose();
    },
  });
  return (
    <Modal open onClose={onClose} title="Throw the draft away?">
      <p>{counted(draft.differences.length, 'change')} would be lost. What is in force stays as it is.</p>
      <Trouble error={drop.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Keep it</Button>
        <Button kind="danger" disabled={drop.isPending} onClick={() => drop.mutate()}>
          Throw it away
        </Button>
      </div>
    </Modal>
  );
}
