import { KIND_LABELS } from './people';
import type { PickedRecord } from './RecordPicker';
import { RecordPicker } from './RecordPicker';
import { TakeOffButton } from './TakeOffButton';
import { recordChips as words } from './words';

/** Chosen records, each with a way to take it off, and a search for one more. */
export function RecordChips({ chosen, onChange }: { chosen: readonly PickedRecord[]; onChange: (chosen: PickedRecord[]) => void }) {
  const isChosen = ({ kind, id }: PickedRecord): boolean => chosen.some((record) => record.kind === kind && record.id === id);
  return (
    <ul className="flex flex-wrap items-center gap-1.5">
      {chosen.map((record) => (
        <li key={`${record.kind}${record.id}`} className="flex max-w-full items-center rounded border border-line bg-raised pl-2">
          <span className="truncate">
            {record.name} <span className="ml-1 text-sm text-muted">{KIND_LABELS[record.kind].one.toLowerCase()}</span>
          </span>
          <TakeOffButton label={words.remove(record.name)} onClick={() => onChange(chosen.filter((it) => it !== record))} />
        </li>
      ))}
      <li>
        <RecordPicker label={words.addARecord} onPick={(picked) => !isChosen(picked) && onChange([...chosen, picked])}>
          <button type="button" className="min-h-7 text-spruce hover:underline">
            {words.addARecord}
          </button>
        </RecordPicker>
      </li>
    </ul>
  );
}
