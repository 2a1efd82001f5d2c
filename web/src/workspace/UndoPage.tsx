import type { UndoKind, UndoStep } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { useUndoSteps } from '../api/queries';
import { Button, Empty, Page, Trouble, Waiting } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { ConfirmUndo } from '../parts/ConfirmUndo';
import { useUndo } from '../parts/useUndo';

/** What undoing a step of each kind does. */
const EFFECTS: Record<UndoKind, string> = {
  keepOut: 'removes it from the list and decides its emails again',
  edit: 'puts the fields back as they were',
  create: 'removes the record, unless something was built on it',
  handOver: 'gives the records back to their owners before',
  dealPeople: 'puts back who was on the deal',
  recordImport: 'removes what it created and puts back what it changed, but for records that were changed since',
  mailImport:
    'removes its emails and the records that they alone created. Emails in another mailbox or folder, or filed by hand since, stay',
  repair: 'lets the rules decide these emails again',
  pastRun: 'puts these emails back as they stood before the run; the rulebook stays',
  ownKeepOut: 'lets their mail come into your mailboxes again',
  draft: 'puts the draft back as it was; nothing in force changes',
  list: 'puts the entries back as they were',
  settings: 'puts the settings back as they were',
  sample: 'removes its mail and its records, but for what was changed or built on since',
  merge: 'parts the two records again as they were',
};

/** Steps that are undone only when that was confirmed. */
const TAKES_MUCH: ReadonlySet<UndoKind> = new Set(['mailImport', 'pastRun', 'sample']);

/** What the reader has done and can take back, the latest first. */
export default function UndoPage() {
  const steps = useUndoSteps(true);
  return (
    <Page
      title="Undo"
      purpose="Your changes to records, emails, lists and settings, latest first. Undo keeps what was built on a change since, and tells you what."
    >
      {steps.isPending && <Waiting what="Fetching your steps" />}
      <Trouble error={steps.error} />
      {steps.data?.steps.length === 0 && <Empty title="Nothing to undo yet">What you change from now on is listed here.</Empty>}
      <ul className="max-w-3xl divide-y divide-line border-y border-line empty:hidden">
        {steps.data?.steps.map((step) => (
          <Step key={step.id} step={step} />
        ))}
      </ul>
    </Page>
  );
}

function Step({ step }: { step: UndoStep }) {
  const undo = useUndo();
  const [asking, setAsking] = useState(false);
  const run = useMutation({ mutationFn: () => undo(step.id)?.run() ?? Promise.resolve() });
  return (
    <li className="px-1 py-2">
      <div className="flex items-baseline gap-x-3">
        <span className={`min-w-0 grow ${step.undone ? 'text-muted line-through' : ''}`}>{step.summary}</span>
        <span className="shrink-0 text-sm text-muted">
          <Moment at={step.at} />
        </span>
        {step.undone ? (
          <span className="w-16 shrink-0 text-right text-sm text-muted">undone</span>
        ) : (
          <Button
            kind="quiet"
            disabled={run.isPending}
            aria-label={`Undo: ${step.summary}`}
            onClick={() => (TAKES_MUCH.has(step.kind) ? setAsking(true) : run.mutate())}
          >
            Undo
          </Button>
        )}
      </div>
      {!step.undone && <p className="text-sm text-muted">Undoing {EFFECTS[step.kind]}.</p>}
      <Trouble error={run.error} />
      {asking && (
        <ConfirmUndo
          step={step.id}
          title={`Undo: ${step.summary}?`}
          effect={`Undoing ${EFFECTS[step.kind]}.`}
          onClose={() => setAsking(false)}
        />
      )}
    </li>
  );
}
