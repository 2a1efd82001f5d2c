import { useState } from 'react';
import { Button, Progress, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { count, counted } from '../parts/numbers';
import { PastRuns } from './PastRuns';
import { useCountPast } from './usePastRuns';
import { DaysChoice, MailboxTicks, WithoutMade } from './SpanChoice';
import type { PastAsk, PastSpan } from './usePastRuns';
import { usePastRuns } from './usePastRuns';

/** Goes over past mail with the rulebook in force; shows how far it is and can be cancelled. */
export function DecideAgain() {
  const { runs, running, start, cancel } = usePastRuns();
  const [asking, setAsking] = useState(false);
  return (
    <section className="mt-6 border-t border-line pt-3">
      {running ? (
        <div className="flex max-w-md items-center gap-3">
          <div className="grow">
            <Progress label="Deciding past mail again" done={running.done} total={running.total} />
            <p className="tabular mt-1 text-sm text-muted">
              {running.phase === 'deciding'
                ? `${count(running.done)} of ${count(running.total)} decided; nothing is changed yet`
                : `Putting ${counted(running.total, 'change')} in place as one step`}
            </p>
          </div>
          <Button onClick={cancel}>Cancel</Button>
        </div>
      ) : (
        <p className="flex flex-wrap items-center gap-3 text-muted">
          A change applies to new mail. Past mail stays as it is until you decide it again.
          <Button onClick={() => setAsking(true)}>Decide past mail again …</Button>
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
  const [span, setSpan] = useState<PastSpan>({ days: null, mailboxes: [] });
  const [withoutMade, setWithoutMade] = useState(false);
  const emails = useCountPast(span, true);
  return (
    <Modal open onClose={onClose} title="Decide past mail again">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          onStart({ ...span, withoutMade });
        }}
      >
        <p>By the rules in force. It applies as one step, which you can undo.</p>
        <div className="w-48">
          <DaysChoice days={span.days} onChange={(days) => setSpan({ ...span, days })} />
        </div>
        <MailboxTicks
          label="Mail of"
          none="all mailboxes"
          chosen={span.mailboxes}
          onChange={(mailboxes) => setSpan({ ...span, mailboxes })}
        />
        <WithoutMade checked={withoutMade} onChange={setWithoutMade} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button kind="main" type="submit" disabled={emails === 0}>
            Decide {emails === undefined ? 'past mail' : counted(emails, 'email')} again
            {withoutMade && ', and take records back'}
          </Button>
        </div>
      </form>
    </Modal>
  );
}
