import type { Mailbox, Trial } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { answersOf } from '../api/asked';
import { Link, useNavigate } from 'react-router';
import { useMailboxes } from '../api/queries';
import { useDraft } from '../rulebook/queries';
import { useTrials } from '../api/queries';
import { Empty, Page, Progress, Trouble } from '../parts/basics';
import { Form, FormEnd, SelectField, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Moment } from '../parts/Moment';
import { count, counted } from '../parts/numbers';
import { Option } from '../parts/Select';

/** Drafts tried out on past mail, and the way to a new trial. */
export default function TrialsPage() {
  const trials = useTrials();
  const draft = useDraft();
  const all = trials.data?.trials ?? [];
  return (
    <Page title="Trials" purpose="A trial decides past mail by the draft and compares it with what stands. It changes nothing.">
      <p className="mb-4 max-w-prose text-muted">
        {draft.data && draft.data.differences.length > 0
          ? `The draft has ${counted(draft.data.differences.length, 'change')}.`
          : 'The draft says what is in force: a trial now shows what deciding past mail again would change.'}
      </p>
      <NewTrial />
      <Trouble error={trials.error} />
      {trials.data && all.length === 0 && <Empty title="No trial yet">Edit a rule of a step, then try the draft here.</Empty>}
      <ul aria-label="Trials" className="mt-6 divide-y divide-line border-y border-line empty:border-0">
        {all.map((trial) => (
          <TrialLine key={trial.id} trial={trial} />
        ))}
      </ul>
    </Page>
  );
}

function NewTrial() {
  const mailboxes: Mailbox[] = useMailboxes().data?.mailboxes ?? [];
  const client = useQueryClient();
  const go = useNavigate();
  const form = useBodyForm('startTrial', {
    values: { name: '', days: '', mailbox: '', records: 'stay' },
    input: ({ name, days, mailbox, records }) => ({
      body: {
        name,
        days: days === '' ? null : Number(days),
        mailboxes: mailbox === '' ? [] : [mailbox],
        withoutMade: records === 'not there',
      },
    }),
    onDone: async (trial) => {
      await client.invalidateQueries(answersOf('listTrials'));
      await go(`/trials/${trial.id}`);
    },
  });
  return (
    <Form form={form} className="flex flex-wrap items-end gap-3">
      <div className="w-52 max-w-full">
        <TextField form={form} name="name" label="Name (may be left empty)" />
      </div>
      <div className="w-28">
        <SelectField form={form} name="days" label="Span">
          <Option value="">all mail</Option>
          <Option value="30">30 days</Option>
          <Option value="90">90 days</Option>
          <Option value="365">one year</Option>
        </SelectField>
      </div>
      <div className="w-60 max-w-full">
        <SelectField form={form} name="mailbox" label="Mailboxes">
          <Option value="">all</Option>
          {mailboxes.map((item) => (
            <Option key={item.id} value={item.address}>
              {item.address}
            </Option>
          ))}
        </SelectField>
      </div>
      <div className="w-60 max-w-full">
        <SelectField form={form} name="records" label="Records that mail created">
          <Option value="stay">stay, as when put live</Option>
          <Option value="not there">as if they were not there</Option>
        </SelectField>
      </div>
      <FormEnd form={form} label="Try the draft out" />
    </Form>
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
