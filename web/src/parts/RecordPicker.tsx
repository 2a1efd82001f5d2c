import type { RecordKind } from '@fulvet/contract';
import { Popover } from 'radix-ui';
import { useDeferredValue, useState } from 'react';
import type { ReactNode } from 'react';
import { useSearch } from '../api/queries';
import { KIND_LABELS } from './people';
import { SearchList } from './SearchList';
import { common, recordPicker as words } from './words';

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
  creating,
  only,
  openAtOnce = false,
  onPick,
  onClose,
}: {
  children: ReactNode;
  label: string;
  /** Further choices that stand above what is found. */
  extra?: readonly { label: string; choose: () => void }[];
  /** What can be created from a text, where no record has it. */
  creating?: (text: string) => readonly { label: string; choose: () => void }[];
  /** Records of this kind, or of these kinds, alone. */
  only?: RecordKind | readonly RecordKind[];
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
  const asked = useDeferredValue(text.trim());
  const found = useSearch(asked);
  const records =
    asked.length > 1
      ? (found.data?.records
          .filter((record) => only === undefined || (typeof only === 'string' ? record.kind === only : only.includes(record.kind)))
          .slice(0, 12) ?? [])
      : [];
  const choices = [
    ...extra.map((item) => ({ key: item.label, name: item.label, detail: '', choose: item.choose })),
    ...records.map((record) => ({
      key: `${record.kind}${record.id}`,
      name: record.name,
      detail: KIND_LABELS[record.kind].one.toLowerCase(),
      choose: () => onPick({ kind: record.kind, id: record.id, name: record.name }),
    })),
    ...(asked.length > 1 ? (creating?.(asked) ?? []) : []).map((item) => ({
      key: item.label,
      name: item.label,
      detail: '',
      choose: item.choose,
    })),
  ].map(({ key, name, detail, choose }) => ({
    key,
    choose: () => {
      choose();
      setOpen(false);
      setText('');
    },
    content: (
      <span className="flex gap-2">
        <span className="min-w-0 grow truncate">{name}</span>
        <span className="text-sm text-muted">{detail}</span>
      </span>
    ),
  }));
  const nothing = asked.length > 1 ? (found.isFetching ? common.looking : words.noRecordHasThis) : null;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>{children}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          className="z-40 w-80 max-w-[92vw] rounded border border-line bg-raised p-1.5 shadow-xl"
        >
          <SearchList
            label={label}
            placeholder={words.accountDealLeadOr}
            text={text}
            onText={setText}
            groups={[{ choices }]}
            nothing={nothing}
          />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
