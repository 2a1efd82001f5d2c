import type { RecordKind } from '@fulvet/contract';
import { Popover } from 'radix-ui';
import { useDeferredValue, useId, useState } from 'react';
import type { ReactNode } from 'react';
import { useSearch } from '../api/queries';
import { TextInput } from './basics';
import { clsx } from './clsx';
import { KIND_LABELS } from './people';

export interface PickedRecord {
  kind: RecordKind;
  id: number;
  name: string;
}

/** A button that opens a search for one record. */
export function RecordPicker({
  children,
  label,
  extra = [],
  only,
  openAtOnce = false,
  onPick,
  onClose,
}: {
  children: ReactNode;
  label: string;
  /** Further choices that stand above what is found. */
  extra?: readonly { label: string; choose: () => void }[];
  /** Records of this kind alone. */
  only?: RecordKind;
  openAtOnce?: boolean;
  onPick: (record: PickedRecord) => void;
  onClose?: () => void;
}) {
  const [open, setOpenState] = useState(openAtOnce);
  const setOpen = (next: boolean): void => {
    setOpenState(next);
    if (!next) onClose?.();
  };
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const listId = useId();
  const asked = useDeferredValue(text.trim());
  const found = useSearch(asked);
  const records =
    asked.length > 1 ? (found.data?.records.filter((record) => only === undefined || record.kind === only).slice(0, 12) ?? []) : [];
  const choices = [
    ...extra.map((item) => ({ key: item.label, name: item.label, detail: '', choose: item.choose })),
    ...records.map((record) => ({
      key: `${record.kind}${record.id}`,
      name: record.name,
      detail: KIND_LABELS[record.kind].one.toLowerCase(),
      choose: () => onPick({ kind: record.kind, id: record.id, name: record.name }),
    })),
  ];
  const choose = (position: number): void => {
    const choice = choices[position];
    if (!choice) return;
    choice.choose();
    setOpen(false);
    setText('');
    setAt(0);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>{children}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          className="z-40 w-80 max-w-[92vw] rounded border border-line bg-raised p-1.5 shadow-xl"
        >
          <TextInput
            autoFocus
            role="combobox"
            aria-expanded
            aria-controls={listId}
            aria-activedescendant={choices[at] ? `${listId}-${at}` : undefined}
            aria-label={label}
            placeholder="Account, deal, lead or contact …"
            value={text}
            onChange={(event) => {
              setText(event.target.value);
              setAt(0);
            }}
            onKeyDown={(event) => {
              if (event.key === 'ArrowDown') setAt(Math.min(choices.length - 1, at + 1));
              else if (event.key === 'ArrowUp') setAt(Math.max(0, at - 1));
              else if (event.key === 'Enter') choose(at);
              else return;
              event.preventDefault();
            }}
          />
          <ul id={listId} role="listbox" aria-label="Found" className="mt-1 max-h-64 overflow-y-auto">
            {choices.map((choice, position) => (
              <li
                key={choice.key}
                id={`${listId}-${position}`}
                role="option"
                aria-selected={position === at}
                className={clsx('flex gap-2 rounded px-2 py-1', position === at && 'bg-sunk')}
                onMouseMove={() => setAt(position)}
                onClick={() => choose(position)}
              >
                <span className="min-w-0 grow truncate">{choice.name}</span>
                <span className="text-sm text-muted">{choice.detail}</span>
              </li>
            ))}
            {asked.length > 1 && records.length === 0 && (
              <li className="px-2 py-2 text-sm text-muted">{found.isFetching ? 'Looking …' : 'No record is called so.'}</li>
            )}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
