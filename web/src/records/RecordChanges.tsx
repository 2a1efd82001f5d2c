import type { RecordKind } from '@fulvet/contract';
import { useState } from 'react';
import { useRecordChanges } from '../api/queries';
import { Trouble, Waiting } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { common } from '../parts/words';
import { recordChanges as texts } from './words';

/** What was changed of a record, by whom, before and after; folded until it is asked for. */
export function RecordChanges({ kind, id }: { kind: RecordKind; id: number }) {
  const [open, setOpen] = useState(false);
  const changes = useRecordChanges(kind, id, open);
  return (
    <section className="mt-4 border-t border-line pt-2" aria-label={texts.changes}>
      <button type="button" aria-expanded={open} className="text-spruce hover:underline" onClick={() => setOpen(!open)}>
        {open ? texts.foldTheChanges : texts.whatWasChanged}
      </button>
      {open && changes.isPending && <Waiting what={common.reading} />}
      {open && <Trouble error={changes.error} />}
      {open && changes.data && (
        <ol className="mt-1 space-y-1">
          {changes.data.changes.map((change) => (
            <li key={change.id} className="break-words">
              <span className="text-muted">
                <Moment at={change.at} />, {change.by ?? common.fulvet}:
              </span>{' '}
              {change.field === 'record' ? (
                change.after
              ) : (
                <>
                  {change.field.replace(/_/g, ' ')} {change.before && <s className="text-muted">{change.before}</s>}{' '}
                  {change.after || texts.empty}
                </>
              )}
            </li>
          ))}
          {changes.data.changes.length === 0 && <li className="text-muted">{texts.nothingYet}</li>}
        </ol>
      )}
    </section>
  );
}
