import { useState } from 'react';
import { Link } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll, useTrials } from '../api/queries';
import { DaysChoice, MailboxTicks, WithoutMade } from '../decision/SpanChoice';
import type { PastSpan } from '../decision/usePastRuns';
import { useCountPast } from '../decision/usePastRuns';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { Form, FormEnd, RadioField, TextField } from '../parts/form/Form';
import { useSentForm } from '../parts/form/useSentForm';
import { count, counted } from '../parts/numbers';
import type { Draft } from './queries';
import { usePilot } from './queries';

/** Puts the draft live: for everyone or for a pilot, from now on or over past mail too. What will happen stands on the button. */
export function PutLive({
  draft,
  first = 'everyone',
  onClose,
}: {
  draft: Draft;
  /** For whom, as the dialog opens. */
  first?: 'everyone' | 'pilot';
  onClose: () => void;
}) {
  const [mailboxes, setMailboxes] = useState<string[]>([]);
  const running = usePilot().data?.pilot ?? null;
  const refresh = useRefreshAll();
  const notice = useNotice();
  const form = useSentForm({
    values: { whom: first as string, which: 'new', days: '', withoutMade: false, note: '' },
    send: async (values) => {
      const said = { revision: draft.revision, note: values.note };
      const { version } =
        values.whom === 'pilot' ? await call('startPilot', { body: { ...said, mailboxes } }) : await call('putDraftLive', { body: said });
      if (values.which === 'past') await call('decide', { body: { ...span, withoutMade: values.withoutMade } });
      return version;
    },
    onDone: async (version) => {
      onClose();
      await refresh();
      const whose = pilot ? `for ${counted(mailboxes.length, 'mailbox', 'mailboxes')}` : 'for everyone';
      notice(`Version ${version} is in force ${whose}${past ? ', and past mail is being decided again' : ', for new mail'}.`);
    },
  });
  const { whom, which, days, withoutMade } = form.fields.watch();
  const pilot = whom === 'pilot';
  const past = which === 'past';
  const span: PastSpan = { days: days === '' ? null : Number(days), mailboxes };
  const emails = useCountPast(span, past && (!pilot || mailboxes.length > 0));
  const whose = pilot ? `Start the pilot for ${counted(mailboxes.length, 'mailbox', 'mailboxes')}` : 'Put live for everyone';
  const again = `decide ${emails === undefined ? 'past mail' : counted(emails, 'past email')} again`;
  const ofWhich = past ? (withoutMade ? `, ${again}, and take records back` : `, and ${again}`) : pilot ? '' : ', for new mail';
  return (
    <Modal open onClose={onClose} title="Put the draft live">
      <Form form={form}>
        <ul className="list-disc pl-5">
          {draft.differences.map((difference) => (
            <li key={difference}>{difference}</li>
          ))}
        </ul>
        <Tried />
        <RadioField
          form={form}
          name="whom"
          legend="Applies to"
          options={[
            { value: 'everyone', label: 'Everyone' },
            {
              value: 'pilot',
              disabled: running !== null,
              label: (
                <>
                  First a pilot: the mail of some mailboxes
                  {running && <span className="text-muted"> (a pilot runs already)</span>}
                </>
              ),
            },
          ]}
        />
        {pilot && <p className="pl-6 text-sm text-muted">Mail that is also in other mailboxes is decided by the live rulebook.</p>}
        <RadioField
          form={form}
          name="which"
          legend="Which mail"
          options={[
            { value: 'new', label: 'New mail from now on; past mail stays as decided' },
            { value: 'past', label: 'Past mail, too' },
          ]}
        />
        {past && (
          <div className="space-y-2 pl-6">
            <div className="w-48">
              <DaysChoice days={span.days} onChange={(wanted) => form.fields.setValue('days', wanted === null ? '' : String(wanted))} />
            </div>
            <WithoutMade checked={withoutMade} onChange={(checked) => form.fields.setValue('withoutMade', checked)} />
          </div>
        )}
        {(pilot || past) && (
          <MailboxTicks
            label={pilot ? 'Mailboxes of the pilot' : 'Past mail of'}
            none={pilot ? 'choose at least one' : 'all mailboxes'}
            chosen={mailboxes}
            onChange={setMailboxes}
          />
        )}
        <TextField form={form} name="note" label="Note for the version history" maxLength={500} />
        <FormEnd form={form} label={`${whose}${ofWhich}`} disabled={pilot && mailboxes.length === 0} onCancel={onClose} />
      </Form>
    </Modal>
  );
}

function Tried() {
  const tried = useTrials().data?.trials.find((trial) => trial.isDraft && trial.state === 'done');
  if (!tried?.summary) return <p className="font-medium text-ochre">This draft has not been tried out on past mail yet.</p>;
  return (
    <p>
      Tried out:{' '}
      <Link className="text-spruce underline" to={`/trials/${tried.id}`}>
        of {counted(tried.summary.emails, 'email')}, {count(tried.summary.changed)} would change
      </Link>
      {tried.summary.newlySeen > 0 && (
        <strong className="text-brick">; {counted(tried.summary.newlySeen, 'email')} would newly be seen by colleagues</strong>
      )}
      .
    </p>
  );
}
