import type { UndoKind, UndoStep } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { useUndoSteps } from '../api/queries';
import { Button, Empty, Page, Trouble, Waiting } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { ConfirmUndo } from '../parts/ConfirmUndo';
import { useUndo } from '../parts/useUndo';
import { common } from '../parts/words';
import { undoPage as words } from './words';

/** What undoing a step of each kind does. */
const EFFECTS: Record<UndoKind, string> = {
  keepOut: words.removesItFromThe,
  edit: words.putsTheFieldsBack,
  create: words.removesTheRecordUnless,
  handOver: words.givesTheRecordsBack,
  dealPeople: words.putsBackWhoWas,
  recordImport: words.removesWhatItCreated,
  mailImport: words.removesItsEmailsAnd,
  repair: words.letsTheRulesDecide,
  pastRun: words.putsTheseEmailsBack,
  ownKeepOut: words.letsTheirMailCome,
  draft: words.putsTheDraftBack,
  list: words.putsTheEntriesBack,
  settings: words.putsTheSettingsBack,
  sample: words.removesItsMailAnd,
  merge: words.partsTheTwoRecords,
  tasks: words.putsTheTasksBack,
};

/** Steps that are undone only when that was confirmed. */
const TAKES_MUCH: ReadonlySet<UndoKind> = new Set(['mailImport', 'pastRun', 'sample']);

/** What the reader has done and can take back, the latest first. */
export default function UndoPage() {
  const steps = useUndoSteps(true);
  return (
    <Page title={common.undo} purpose={words.yourChangesToRecords}>
      {steps.isPending && <Waiting what={words.fetchingYourSteps} />}
      <Trouble error={steps.error} />
      {steps.data?.steps.length === 0 && <Empty title={words.nothingToUndoYet}>{words.whatYouChangeFrom}</Empty>}
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
          <span className="w-16 shrink-0 text-right text-sm text-muted">{words.undone}</span>
        ) : (
          <Button
            kind="quiet"
            disabled={run.isPending}
            aria-label={words.undo(step.summary)}
            onClick={() => (TAKES_MUCH.has(step.kind) ? setAsking(true) : run.mutate())}
          >
            {common.undo}
          </Button>
        )}
      </div>
      {!step.undone && <p className="text-sm text-muted">{words.undoing(EFFECTS[step.kind])}</p>}
      <Trouble error={run.error} />
      {asking && (
        <ConfirmUndo
          step={step.id}
          title={words.undoForSummary(step.summary)}
          effect={words.undoing(EFFECTS[step.kind])}
          onClose={() => setAsking(false)}
        />
      )}
    </li>
  );
}
