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
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { trialsPage as words } from './words';

/** Drafts tried out on past mail, and the way to a new trial. */
export default function TrialsPage() {
  const trials = useTrials();
  const draft = useDraft();
  const all = trials.data?.trials ?? [];
  return (
    <Page title={words.trials} purpose={words.aTrialDecidesPast}>
      <p className="mb-4 max-w-prose text-muted">
        {draft.data && draft.data.differences.length > 0 ? words.theDraftHasChange(draft.data.differences.length) : words.theDraftSaysWhat}
      </p>
      <NewTrial />
      <Trouble error={trials.error} />
      {trials.data && all.length === 0 && <Empty title={words.noTrialYet}>{words.editARuleOf}</Empty>}
      <ul aria-label={words.trials} className="mt-6 divide-y divide-line border-y border-line empty:border-0">
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
        <TextField form={form} name="name" label={words.nameMayBeLeft} />
      </div>
      <div className="w-28">
        <SelectField form={form} name="days" label={words.span}>
          <Option value="">{words.allMail}</Option>
          <Option value="30">{words.of30Days}</Option>
          <Option value="90">{words.of90Days}</Option>
          <Option value="365">{words.oneYear}</Option>
        </SelectField>
      </div>
      <div className="w-60 max-w-full">
        <SelectField form={form} name="mailbox" label={common.mailboxes}>
          <Option value="">{words.all}</Option>
          {mailboxes.map((item) => (
            <Option key={item.id} value={item.address}>
              {item.address}
            </Option>
          ))}
        </SelectField>
      </div>
      <div className="w-60 max-w-full">
        <SelectField form={form} name="records" label={words.recordsThatMailCreated}>
          <Option value="stay">{words.stayAsWhenPut}</Option>
          <Option value="not there">{words.asIfTheyWere}</Option>
        </SelectField>
      </div>
      <FormEnd form={form} label={words.tryTheDraftOut} />
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
          {trial.isDraft && <span className="ml-2 text-sm text-spruce">{words.theDraftAsIt}</span>}
          <span className="block text-sm text-muted">
            {filled(words.againstVersion, {
              trialBy: trial.by,
              baseVersion: trial.baseVersion,
              since: trial.since && words.mailSince(trial.since.slice(0, 10)),
              mailboxes: trial.mailboxes.length > 0 && `, ${trial.mailboxes.join(', ')}`,
              withoutThe: trial.withoutMade && words.withoutTheRecordsThat,
            })}
          </span>
        </span>
        <span className="tabular">
          {running ? (
            <span className="inline-block w-40 align-middle">
              <Progress label={words.trial} done={trial.done} total={trial.total} />
            </span>
          ) : trial.summary ? (
            filled(words.ofWouldChange, {
              changed: <strong>{count(trial.summary.changed)}</strong>,
              emails: counted(trial.summary.emails, 'email'),
            })
          ) : (
            trial.message || trial.state
          )}
        </span>
        <Moment at={trial.at} className="w-20 text-right text-sm text-muted" />
      </Link>
    </li>
  );
}
