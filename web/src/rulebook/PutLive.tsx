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
import { counted } from '../parts/numbers';
import type { Draft } from './queries';
import { usePilot } from './queries';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { putLive as words } from './words';

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
      const whose = pilot ? words.forMailboxes(mailboxes.length) : words.forEveryone;
      notice(words.versionIsInForce(version, whose, past));
    },
  });
  const { whom, which, days, withoutMade } = form.fields.watch();
  const pilot = whom === 'pilot';
  const past = which === 'past';
  const span: PastSpan = { days: days === '' ? null : Number(days), mailboxes };
  const emails = useCountPast(span, past && (!pilot || mailboxes.length > 0));
  const whose = pilot ? words.startThePilotFor(mailboxes.length) : words.putLiveForEveryone;
  const again = words.decideAgain(emails === undefined ? common.pastMail : counted(emails, 'past email'));
  const ofWhich = past ? (withoutMade ? words.andTakeRecordsBack(again) : words.and(again)) : pilot ? '' : words.forNewMail;
  return (
    <Modal open onClose={onClose} title={words.putTheDraftLive}>
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
          legend={words.appliesTo}
          options={[
            { value: 'everyone', label: words.everyone },
            {
              value: 'pilot',
              disabled: running !== null,
              label: filled(words.firstAPilotThe, { aPilot: running && <span className="text-muted"> {words.aPilotRunsAlready}</span> }),
            },
          ]}
        />
        {pilot && <p className="pl-6 text-sm text-muted">{words.mailThatIsAlso}</p>}
        <RadioField
          form={form}
          name="which"
          legend={words.whichMail}
          options={[
            { value: 'new', label: words.newMailFromNow },
            { value: 'past', label: words.pastMailToo },
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
            label={pilot ? words.mailboxesOfThePilot : words.pastMailOf}
            none={pilot ? words.chooseAtLeastOne : words.allMailboxes}
            chosen={mailboxes}
            onChange={setMailboxes}
          />
        )}
        <TextField form={form} name="note" label={words.noteForTheVersion} maxLength={500} />
        <FormEnd form={form} label={`${whose}${ofWhich}`} disabled={pilot && mailboxes.length === 0} onCancel={onClose} />
      </Form>
    </Modal>
  );
}

function Tried() {
  const tried = useTrials().data?.trials.find((trial) => trial.isDraft && trial.state === 'done');
  if (!tried?.summary) return <p className="font-medium text-ochre">{words.thisDraftHasNot}</p>;
  return (
    <p>
      {filled(words.triedOut, {
        emails: (
          <Link className="text-spruce underline" to={`/trials/${tried.id}`}>
            {words.ofEmailWouldChange(tried.summary.emails, tried.summary.changed)}
          </Link>
        ),
        newlySeen: tried.summary.newlySeen > 0 && (
          <strong className="text-brick">{words.emailWouldNewlyBe(tried.summary.newlySeen)}</strong>
        ),
      })}
    </p>
  );
}
