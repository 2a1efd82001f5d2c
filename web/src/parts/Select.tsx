import { Check, ChevronDown } from 'lucide-react';
import { Select as Parts } from 'radix-ui';
import type { ReactNode } from 'react';
import { clsx } from './clsx';

/** The list itself cannot hold an empty value; it stands for one. */
const EMPTY = '\u0000';

interface Props {
  value: string | number;
  onValue: (value: string) => void;
  /** `Option`s, in the order shown. */
  children: ReactNode;
  'aria-label'?: string;
  name?: string;
  className?: string;
  /** As wide as its place, or as its words: for filters that stand beside each other. */
  fit?: 'place' | 'words';
  disabled?: boolean;
  autoFocus?: boolean;
  /** Opened at once; left when it closes without a choice. */
  openAtOnce?: boolean;
  onLeave?: () => void;
}

/** A choice of one among some, by mouse, keyboard or the first letters. Beside a label, or with an `aria-label`. */
export function Select({
  value,
  onValue,
  children,
  className,
  fit = 'place',
  openAtOnce = false,
  onLeave,
  name,
  disabled,
  ...rest
}: Props) {
  return (
    <Parts.Root
      value={String(value) || EMPTY}
      onValueChange={(next) => onValue(next === EMPTY ? '' : next)}
      {...(openAtOnce ? { defaultOpen: true } : {})}
      {...(onLeave ? { onOpenChange: (open: boolean) => !open && onLeave() } : {})}
      {...(disabled === undefined ? {} : { disabled })}
    >
      <Parts.Trigger
        data-name={name}
        className={clsx(
          'flex min-h-8 items-center justify-between gap-1.5 rounded border border-line bg-raised px-2 text-left hover:border-muted disabled:opacity-50',
          fit === 'place' ? 'w-full text-base' : 'max-w-48 text-sm',
          className,
        )}
        {...rest}
      >
        <span className="min-w-0 truncate">
          <Parts.Value />
        </span>
        <Parts.Icon asChild>
          <ChevronDown size={14} aria-hidden className="shrink-0 text-muted" />
        </Parts.Icon>
      </Parts.Trigger>
      <Parts.Portal>
        <Parts.Content
          position="popper"
          sideOffset={4}
          className="z-60 max-h-(--radix-select-content-available-height) min-w-(--radix-select-trigger-width) max-w-[92vw] overflow-hidden rounded border border-line bg-raised shadow-xl"
        >
          <Parts.Viewport className="max-h-80 p-1">{children}</Parts.Viewport>
        </Parts.Content>
      </Parts.Portal>
    </Parts.Root>
  );
}

/** One choice of a `Select`. */
export function Option({ value, children, disabled = false }: { value: string | number; children: ReactNode; disabled?: boolean }) {
  return (
    <Parts.Item
      value={String(value) || EMPTY}
      disabled={disabled}
      className="flex min-h-7 cursor-default items-center gap-1.5 rounded py-0.5 pr-2.5 pl-1.5 outline-none data-disabled:opacity-50 data-highlighted:bg-sunk"
    >
      <span className="w-4 shrink-0">
        <Parts.ItemIndicator>
          <Check size={13} aria-hidden />
        </Parts.ItemIndicator>
      </span>
      <Parts.ItemText>{children}</Parts.ItemText>
    </Parts.Item>
  );
}
