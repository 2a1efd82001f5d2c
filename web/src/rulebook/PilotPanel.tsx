import type { Pilot } from '@fulvet/contract';
import { useState } from 'react';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { usePilot } from './queries';
import { Address, Button } from '../parts/basics';
import { Form, FormEnd, TextField, TickField } from '../parts/form/Form';
import { useSentForm } from '../parts/form/useSentForm';
import { Modal } from '../parts/Modal';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { OUTCOME_LABELS } from '../parts/OutcomeMark';
import { count, counted, percent } from '../parts/numbers';
import { useCountPast } from '../decision/usePastRuns';
import type { PastSpan } from '../decision/usePastRuns';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { pilotPanel as words } from './words';

/** The pilot that runs: its figures beside those of other mail, and the ways on. */
export function PilotPanel() {
  const pilot = usePilot().data?.pilot;
  const [asking, setAsking] = useState<'live' | 'end' | null>(null);
  if (!pilot) return null;
  return (
    <section aria-label={words.thePilot} className="mb-4 rounded border border-spruce/50 bg-raised px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <strong>{words.pilotVersionIsIn(pilot.version, pilot.mailboxes.length)}</strong>
        <span className="min-w-48 flex-1 truncate text-sm text-muted">
          {pilot.mailboxes.map((mailbox, at) => (
            <span key={mailbox}>
              {at > 0 && ', '}
              <Address>{mailbox}</Address>
            </span>
          ))}
          {' · '}
          {pilot.by}, <Moment at={pilot.at} />
        </span>
        <Button kind="main" disabled={pilot.behind} onClick={() => setAsking('live')}>
          {words.putLiveForEveryone}
        </Button>
        <Button onClick={() => setAsking('end')}>{words.endThePilot}</Button>
      </div>
      {pilot.behind && <p className="mt-1 text-sm text-brick">{words.anotherVersionWasPut}</p>}
      <Figures pilot={pilot} />
      {asking && <Ask pilot={pilot} end={asking === 'end'} onClose={() => setAsking(null)} />}
    </section>
  );
}

const OUTCOMES = ['filed', 'waiting', 'unfiled', 'kept out'] as const;

function Figures({ pilot }: { pilot: Pilot }) {
  if (pilot.group.emails === 0) return <p className="mt-1 text-sm">{words.itHasNotDecided}</p>;
  const measures: [string, (figures: Pilot['group']) => string][] = [
    ['emails', ({ emails }) => count(emails)],
    ...OUTCOMES.map((outcome): (typeof measures)[number] => [
      OUTCOME_LABELS[outcome],
      ({ outcomes, emails }) => percent(outcomes[outcome] ?? 0, emails),
    ]),
    [words.seenByEveryone, ({ everyone, emails }) => percent(everyone, emails)],
    [words.recordsCreated, ({ created }) => count(created)],
  ];
  return (
    <div role="group" aria-label={words.thePilotBesideOther} className="tabular mt-2 flex flex-wrap items-end gap-x-6 gap-y-2 text-sm">
      <dl className="contents">
        {measures.map(([label, said]) => (
          <div key={label}>
            <dt className="text-muted">{label}</dt>
            <dd>
              <strong>{said(pilot.group)}</strong> <span className="text-muted">{said(pilot.others)}</span>
            </dd>
          </div>
        ))}
      </dl>
      <p className="text-muted">{filled(words.otherMailOfThat, { pilot: <strong className="text-ink">{words.pilot}</strong> })}</p>
    </div>
  );
}

function Ask({ pilot, end, onClose }: { pilot: Pilot; end: boolean; onClose: () => void }) {
  const days = Math.max(1, Math.ceil((Date.now() - Date.parse(pilot.from)) / 86_400_000));
  const span: PastSpan = end ? { days, mailboxes: pilot.mailboxes } : { days, mailboxes: [] };
  const refresh = useRefreshAll();
  const notice = useNotice();
  const form = useSentForm({
    values: { past: end, note: '' },
    send: async (values) => {
      if (end) await call('endPilot');
      else await call('putPilotLive', { body: { note: values.note } });
      if (values.past) await call('decide', { body: span });
    },
    onDone: async () => {
      onClose();
      await refresh();
      notice(end ? words.thePilotHasEnded : words.thePilotsRulesAre);
    },
  });
  const past = form.fields.watch('past');
  const emails = useCountPast(span, past);
  const what = emails === undefined ? common.pastMail : counted(emails, 'past email');
  return (
    <Modal open onClose={onClose} title={end ? words.endThePilotTitle : words.putThePilotsRules}>
      <Form form={form}>
        <ul className="list-disc pl-5">
          {pilot.summary.split('\n').map((part) => (
            <li key={part}>{part}</li>
          ))}
        </ul>
        <TickField form={form} name="past" label={end ? words.decideTheMailOf(days) : words.decideEveryonesMailOf(days)} />
        {!end && <TextField form={form} name="note" label={words.noteForTheVersion} maxLength={500} />}
        <FormEnd
          form={form}
          label={`${end ? words.endThePilot3 : words.putLiveForEveryoneTitle}${past ? words.andDecideAgain(what) : end ? words.itsMailStaysAs : words.forNewMail}`}
          cancel={words.leaveItRunning}
          onCancel={onClose}
        />
      </Form>
    </Modal>
  );
}
