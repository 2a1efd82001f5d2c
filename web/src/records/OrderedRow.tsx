import { ArrowDown, ArrowUp, X } from 'lucide-react';
import type { InputHTMLAttributes } from 'react';
import { Button, TextInput } from '../parts/basics';
import { orderedRow as words } from './words';

type Registered = InputHTMLAttributes<HTMLInputElement>;

/** A stage or state in a list whose order counts: its name, whether it is open, and ways to move and remove it. */
export function OrderedRow({
  label,
  name,
  nameInput,
  openInput,
  removing,
  onUp,
  onDown,
  onRemove,
}: {
  label: string;
  /** As it is written now. */
  name: string;
  nameInput: Registered;
  openInput: Registered;
  /** What it is called where it has no name yet. */
  removing: string;
  /** Absent for the first. */
  onUp?: (() => void) | undefined;
  /** Absent for the last. */
  onDown?: (() => void) | undefined;
  onRemove: () => void;
}) {
  return (
    <li className="flex items-center gap-2">
      <TextInput aria-label={label} className="w-52!" {...nameInput} />
      <label className="flex items-center gap-1 text-sm">
        <input type="checkbox" {...openInput} /> {words.open}
      </label>
      <Button kind="quiet" aria-label={words.moveUp(name)} disabled={!onUp} onClick={onUp}>
        <ArrowUp size={14} />
      </Button>
      <Button kind="quiet" aria-label={words.moveDown(name)} disabled={!onDown} onClick={onDown}>
        <ArrowDown size={14} />
      </Button>
      <Button kind="quiet" aria-label={words.remove(name || removing)} onClick={onRemove}>
        <X size={14} />
      </Button>
    </li>
  );
}
