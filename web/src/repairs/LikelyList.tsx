import type { LikelyRecord } from '@fulvet/contract';
import { useDeferredValue, useId, useState } from 'react';
import { useLikely } from './queries';
import { TextInput } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { KIND_LABELS } from '../parts/people';

/** A search for the record that an email belongs under: likely ones stand there before anything is typed, with why. Enter takes the marked one. */
export function LikelyList({
  emailId,
  without = [],
  onPick,
}: {
  emailId: number;
  /** Records that are not offered, as `kind:id`. */
  without?: readonly string[];
  onPick: (record: LikelyRecord) => void;
}) {
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const listId = useId();
  const asked = useDeferredValue(text.trim());
  const found = useLikely(emailId, asked);
  const records = (found.data?.records ?? []).filter((record) => !without.includes(`${record.kind}:${record.id}`));
  return (
    <>
      <TextInput
        autoFocus
        role="combobox"
        aria-expanded
        aria-controls={listId}
        aria-activedescendant={records[at] ? `${listId}-${at}` : undefined}
        aria-label="Find a record"
        placeholder="Name, address, code …"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          const chosen = records[at];
          if (event.key === 'ArrowDown') setAt(Math.min(records.length - 1, at + 1));
          else if (event.key === 'ArrowUp') setAt(Math.max(0, at - 1));
          else if (event.key === 'Enter' && chosen) onPick(chosen);
          else return;
          event.preventDefault();
        }}
      />
      <ul id={listId} role="listbox" aria-label="Records" className="mt-2 max-h-72 overflow-y-auto">
        {records.map((record, position) => (
          <li
            key={`${record.kind}${record.id}`}
            id={`${listId}-${position}`}
            role="option"
            aria-selected={position === at}
            className={clsx('rounded px-2 py-1', position === at && 'bg-sunk')}
            onMouseMove={() => setAt(position)}
            onClick={() => onPick(record)}
          >
            <span className="flex gap-2">
              <span className="w-14 shrink-0 text-sm text-muted">{KIND_LABELS[record.kind].one}</span>
              <span className="min-w-0 truncate font-medium">{record.name}</span>
              <span className="ml-auto min-w-0 truncate text-sm text-muted">{record.detail}</span>
            </span>
            {record.why.length > 0 && <span className="block truncate pl-16 text-sm text-muted">{record.why.join(' · ')}</span>}
          </li>
        ))}
        {records.length === 0 && (
          <li className="px-2 py-2 text-sm text-muted">
            {found.isPending || found.isFetching
              ? 'Looking …'
              : asked
                ? 'No record is called so.'
                : 'Nothing speaks for a record. Type a name.'}
          </li>
        )}
      </ul>
    </>
  );
}
