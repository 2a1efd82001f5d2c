import { useMutation } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { useState } from 'react';
import { Link } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll, useTrials } from '../api/queries';
import { DaysChoice, MailboxTicks, WithoutMade } from '../decision/SpanChoice';
import type { PastSpan } from '../decision/usePastRuns';
import { useCountPast } from '../decision/usePastRuns';
import { Modal } from '../parts/Modal';
import { useNotice } from '../parts/Notices';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { count, counted } from '../parts/numbers';
import type { Draft } from './queries';
import { usePilot } from './queries';

/** Puts the draft live: for everyone or for a pilot, from now on or over past mail too. What will happen stands on the button. */
export function PutLive({ draft, onClose }: { draft: Draft; onClose: () => void }) {
  const [note, setNote] = useState('');
  const [pilot, setPilot] = useState(false);
  const [past, setPast] = useState(false);
  const [days, setDays] = useState<number | null>(null);
  const [withoutMade, setWithoutMade] = useState(false);
  const [mailboxes, setMailboxes] = useState<string[]>([]);
  const running = usePilot().data?.pilot ?? null;
  const span: PastSpan = { days, mailboxes };
  const emails = useCountPast(span, past && (!pilot || mailboxes.length > 0));
  const refresh = useRefreshAll();
  const notice = useNotice();
  const live = useMutation({
    mutationFn: async () => {
      const said = { revision: draft.revision, note };
      const { version } = pilot ? await call('startPilot', { body: { ...said, mailboxes } }) : await call('putDraftLive', { body: said });
      if (past) await call('decide', { body: { ...span, withoutMade } });
      return version;
    },
    onSuccess: async (version) => {
      onClose();
      await refresh();
      const whose = pilot ? `for ${counted(mailboxes.length, 'mailbox', 'mailboxes')}` : 'for everyone';
      notice(`Version ${version} is in force ${whose}${past ? ', and past mail is being decided again' : ', for new mail'}.`);
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
          {draft.differences.map((difference) => (
            <li key={difference}>{difference}</li>
          ))}
        </ul>
        <Tried />
        <fieldset className="space-y-1">
          <legend className="text-sm font-medium">For whom</legend>
          <Radio name="whom" checked={!pilot} onChange={() => setPilot(false)}>
            Everyone
          </Radio>
          <Radio name="whom" checked={pilot} disabled={running !== null} onChange={() => setPilot(true)}>
            First a pilot: the mail of some mailboxes
            {running && <span className="text-muted"> (a pilot runs already)</span>}
          </Radio>
          {pilot && <p className="pl-6 text-sm text-muted">Mail that others hold as well goes by what is in force for everyone.</p>}
        </fieldset>
        <fieldset className="space-y-1">
          <legend className="text-sm font-medium">Which mail</legend>
          <Radio name="past" checked={!past} onChange={() => setPast(false)}>
            New mail from now on; past mail stays as decided
          </Radio>
          <Radio name="past" checked={past} onChange={() => setPast(true)}>
            Past mail, too
          </Radio>
          {past && (
            <div className="space-y-2 pl-6">
              <div className="w-48">
                <DaysChoice days={days} onChange={setDays} />
              </div>
              <WithoutMade checked={withoutMade} onChange={setWithoutMade} />
            </div>
          )}
        </fieldset>
        {(pilot || past) && (
          <MailboxTicks
            label={pilot ? 'Mailboxes of the pilot' : 'Past mail of'}
            none={pilot ? 'choose at least one' : 'all mailboxes'}
            chosen={mailboxes}
            onChange={setMailboxes}
          />
        )}
        <Field label="Why (for whoever reads the versions later)">
          <TextInput value={note} maxLength={500} onChange={(event) => setNote(event.target.value)} />
        </Field>
        <Trouble error={live.error} />
        <div className="flex flex-wrap justify-end gap-2">
          <Button onClick={onClose}>Not yet</Button>
          <Button kind="main" type="submit" disabled={live.isPending || (pilot && mailboxes.length === 0)}>
            {pilot ? `Start the pilot for ${counted(mailboxes.length, 'mailbox', 'mailboxes')}` : 'Put live for everyone'}
            {past
              ? `, ${withoutMade ? '' : 'and '}decide ${emails === undefined ? 'past mail' : counted(emails, 'past email')} again${withoutMade ? ', and take records back' : ''}`
              : pilot
                ? ''
                : ', for new mail'}
          </Button>
        </div>
      </form>
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

function Radio({ children, ...rest }: { name: string; checked: boolean; disabled?: boolean; onChange: () => void; children: ReactNode }) {
  return (
    <label className="flex gap-2">
      <input type="radio" {...rest} /> <span>{children}</span>
    </label>
  );
}
