import type { Mailbox, Trial } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { call } from '../api/call';
import { useMailboxes } from '../api/queries';
import { useDraft } from '../rulebook/queries';
import { useTrials } from '../api/queries';
import { Button, Empty, Field, Page, Progress, TextInput, Trouble } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { count, counted } from '../parts/numbers';
import { Select } from '../parts/Select';

/** Drafts tried out on past mail, and the way to a new trial. */
export default function TrialsPage() {
  const trials = useTrials();
  const draft = useDraft();
  const all = trials.data?.trials ?? [];
  return (
    <Page title="Trials">
      <p className="mb-4 max-w-prose text-muted">
        A trial decides past mail by the draft and compares it with what stands. It changes nothing.{' '}
        {draft.data && draft.data.differences.length > 0
          ? `The draft has ${counted(draft.data.differences.length, 'change')}.`
          : 'The draft says what is in force: a trial now shows what deciding past mail again would change.'}
      </p>
      <NewTrial />
      <Trouble error={trials.error} />
      {trials.data && all.length === 0 && (
        <Empty title="No trial yet">Edit a rule at a stop of the line, then try the draft out here.</Empty>
      )}
      <ul aria-label="Trials" className="mt-6 divide-y divide-line border-y border-line empty:border-0">
        {all.map((trial) => (
          <TrialLine key={trial.id} trial={trial} />
        ))}
      </ul>
    </Page>
  );
}

function NewTrial() {
  const [name, setName] = useState('');
  const [days, setDays] = useState('');
  const [mailbox, setMailbox] = useState('');
  const [withoutMade, setWithoutMade] = useState(false);
  const mailboxes: Mailbox[] = useMailboxes().data?.mailboxes ?? [];
  const client = useQueryClient();
  const go = useNavigate();
  const start = useMutation({
    mutationFn: () =>
      call('startTrial', {
        body: {
          name,
          days: days === '' ? null : Number(days),
          mailboxes: mailbox === '' ? [] : [mailbox],
          withoutMade,
        },
      }),
    onSuccess: async (trial) => {
      await client.invalidateQueries({ queryKey: ['trials'] });
      await go(`/trials/${trial.id}`);
    },
  });
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        start.mutate();
      }}
    >
      <div className="w-52 max-w-full">
        <Field label="Name (may be left empty)">
          <TextInput value={name} maxLength={100} onChange={(event) => setName(event.target.value)} />
        </Field>
      </div>
      <div className="w-28">
        <Field label="Span">
          <Select value={days} onChange={(event) => setDays(event.target.value)}>
            <option value="">all mail</option>
            <option value="30">30 days</option>
            <option value="90">90 days</option>
            <option value="365">one year</option>
          </Select>
        </Field>
      </div>
      <div className="w-60 max-w-full">
        <Field label="Mailboxes">
          <Select value={mailbox} onChange={(event) => setMailbox(event.target.value)}>
            <option value="">all</option>
            {mailboxes.map((item) => (
              <option key={item.id} value={item.address}>
                {item.address}
              </option>
            ))}
          </Select>
        </Field>
      </div>
      <div className="w-60 max-w-full">
        <Field label="Records that mail created">
          <Select value={withoutMade ? 'not there' : 'stay'} onChange={(event) => setWithoutMade(event.target.value === 'not there')}>
            <option value="stay">stay, as when put live</option>
            <option value="not there">as if they were not there</option>
          </Select>
        </Field>
      </div>
      <Button kind="main" type="submit" disabled={start.isPending}>
        Try the draft out
      </Button>
      <Trouble error={start.error} />
    </form>
  );
}

function TrialLine({ trial }: { trial: Trial }) {
  const running = trial.state === 'queued' || trial.state === 'running';
  return (
    <li>
      <Link to={`/trials/${trial.id}`} className="flex flex-wrap items-baseline gap-x-4 px-1 py-2 hover:bg-sunk">
        <span className="min-w-0 grow">
          <span className="font-medium">{trial.name}</span>
          {trial.isDraft && <span className="ml-2 text-sm text-spruce">the draft as it is now</span>}
          <span className="block text-sm text-muted">
            {trial.by}, against version {trial.baseVersion}
            {trial.since && `, mail since ${trial.since.slice(0, 10)}`}
            {trial.mailboxes.length > 0 && `, ${trial.mailboxes.join(', ')}`}
            {trial.withoutMade && ', without the records that mail created'}
          </span>
        </span>
        <span className="tabular">
          {running ? (
            <span className="inline-block w-40 align-middle">
              <Progress label="Trial" done={trial.done} total={trial.total} />
            </span>
          ) : trial.summary ? (
            <>
              <strong>{count(trial.summary.changed)}</strong> of {counted(trial.summary.emails, 'email')} would change
            </>
          ) : (
            trial.message || trial.state
          )}
        </span>
        <Moment at={trial.at} className="w-20 text-right text-sm text-muted" />
      </Link>
    </li>
  );
}
