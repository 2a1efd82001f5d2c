import { useState } from 'react';
import { Button, Progress, Trouble } from '../parts/basics';
import { Form, FormEnd } from '../parts/form/Form';
import { useSentForm } from '../parts/form/useSentForm';
import { Modal } from '../parts/Modal';
import { counted } from '../parts/numbers';
import { PastRuns } from './PastRuns';
import { useCountPast } from './usePastRuns';
import { DaysChoice, MailboxTicks, WithoutMade } from './SpanChoice';
import type { PastAsk } from './usePastRuns';
import { usePastRuns } from './usePastRuns';
import { common } from '../parts/words';
import { decideAgain as words } from './words';

/** Goes over past mail with the rulebook in force; shows how far it is and can be cancelled. */
export function DecideAgain() {
  const { runs, running, start, cancel } = usePastRuns();
  const [asking, setAsking] = useState(false);
  return (
    <section className="mt-6 border-t border-line pt-3">
      {running ? (
        <div className="flex max-w-md items-center gap-3">
          <div className="grow">
            <Progress label={words.decidingPastMailAgain} done={running.done} total={running.total} />
            <p className="tabular mt-1 text-sm text-muted">
              {running.phase === 'deciding'
                ? words.ofDecidedNothingIs(running.done, running.total)
                : words.puttingChangeInPlace(running.total)}
            </p>
          </div>
          <Button onClick={cancel}>{common.cancel}</Button>
        </div>
      ) : (
        <p className="flex flex-wrap items-center gap-3 text-muted">
          {words.aChangeAppliesTo}
          <Button onClick={() => setAsking(true)}>{words.decidePastMailAgain}</Button>
        </p>
      )}
      <Trouble error={start.error} />
      <PastRuns runs={runs} />
      {asking && (
        <AskSpan
          onClose={() => setAsking(false)}
          onStart={(ask) => {
            setAsking(false);
            start.mutate(ask);
          }}
        />
      )}
    </section>
  );
}

function AskSpan({ onClose, onStart }: { onClose: () => void; onStart: (ask: PastAsk) => void }) {
  const form = useSentForm<PastAsk, PastAsk>({
    values: { days: null, mailboxes: [], withoutMade: false },
    send: (ask) => Promise.resolve(ask),
    onDone: onStart,
  });
  const { days, mailboxes, withoutMade } = form.fields.watch();
  const emails = useCountPast({ days, mailboxes }, true);
  return (
    <Modal open onClose={onClose} title={words.decidePastMailAgainTitle}>
      <Form form={form}>
        <p>{words.byTheRulesIn}</p>
        <div className="w-48">
          <DaysChoice days={days} onChange={(chosen) => form.fields.setValue('days', chosen)} />
        </div>
        <MailboxTicks
          label={words.mailOf}
          none={words.allMailboxes}
          chosen={mailboxes}
          onChange={(chosen) => form.fields.setValue('mailboxes', chosen)}
        />
        <WithoutMade checked={withoutMade} onChange={(checked) => form.fields.setValue('withoutMade', checked)} />
        <FormEnd
          form={form}
          disabled={emails === 0}
          label={words.decideAgainAndTake(emails === undefined ? common.pastMail : counted(emails, 'email'), withoutMade)}
          cancel={words.notNow}
          onCancel={onClose}
        />
      </Form>
    </Modal>
  );
}
