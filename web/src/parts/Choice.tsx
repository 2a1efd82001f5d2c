import { Popover } from 'radix-ui';
import { useRef, useState } from 'react';
import { choice as words } from './words';

export interface ChoiceOption<T extends string> {
  value: T;
  label: string;
  hint?: string;
}

/** An underlined part of a sentence that is edited in place: a click or Enter lists what else it can say. */
export function Choice<T extends string>({
  value,
  options,
  onChange,
  label,
  disabled = false,
  shown,
}: {
  value: T;
  options: readonly ChoiceOption<T>[];
  onChange: (value: T) => void;
  label: string;
  disabled?: boolean;
  /** Stands there in place of the label of what is chosen. */
  shown?: string;
}) {
  const [open, setOpen] = useState(false);
  const list = useRef<HTMLDivElement>(null);
  const current = options.find((option) => option.value === value);
  if (disabled) return <strong className="font-semibold">{current?.label ?? value}</strong>;
  const move = (step: number): void => {
    const items = [...(list.current?.querySelectorAll<HTMLElement>('[role=option]') ?? [])];
    const at = items.findIndex((item) => item === document.activeElement);
    items[(at + step + items.length) % items.length]?.focus();
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label={shown ?? words.change(label, current?.label ?? value)}
        className="font-semibold text-spruce underline decoration-dotted decoration-2 underline-offset-4 hover:decoration-solid"
      >
        {shown ?? current?.label ?? value}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={6}
          className="z-40 w-80 max-w-[92vw] rounded border border-line bg-raised p-1 shadow-xl"
          onOpenAutoFocus={(event) => {
            event.preventDefault();
            (
              list.current?.querySelector<HTMLElement>('[aria-selected=true]') ?? list.current?.querySelector<HTMLElement>('[role=option]')
            )?.focus();
          }}
          onKeyDown={(event) => {
            if (event.key === 'ArrowDown') move(1);
            else if (event.key === 'ArrowUp') move(-1);
            else return;
            event.preventDefault();
          }}
        >
          <div ref={list} role="listbox" aria-label={label} className="max-h-80 overflow-y-auto">
            {options.map((option) => (
              <button
                key={option.value}
                type="button"
                role="option"
                aria-selected={option.value === value}
                className="block w-full rounded px-2.5 py-1.5 text-left hover:bg-sunk aria-selected:bg-sunk"
                onClick={() => {
                  setOpen(false);
                  if (option.value !== value) onChange(option.value);
                }}
              >
                <span className="font-medium">{option.label}</span>
                {option.hint && <span className="block text-sm text-muted">{option.hint}</span>}
              </button>
            ))}
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
