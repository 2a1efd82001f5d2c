import { format, isValid, parseISO } from 'date-fns';
import { CalendarDays, ChevronLeft, ChevronRight } from 'lucide-react';
import { Popover } from 'radix-ui';
import { lazy, Suspense, useState } from 'react';
import { Button } from './basics';
import { clsx } from './clsx';
import { datePicker as texts } from './words';

const DayPicker = lazy(() => import('react-day-picker').then((module) => ({ default: module.DayPicker })));
const shownDate = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short', year: 'numeric' });

const DAY_CLASSES = {
  root: 'relative',
  month_caption: 'flex h-8 items-center justify-center font-head font-semibold',
  nav: 'absolute inset-x-0 top-0 flex h-8 items-center justify-between',
  button_previous: 'flex size-8 items-center justify-center rounded hover:bg-sunk',
  button_next: 'flex size-8 items-center justify-center rounded hover:bg-sunk',
  weekday: 'size-8 text-xs font-normal text-muted',
  day: 'p-0 text-center',
  day_button: 'tabular size-8 rounded hover:bg-sunk',
  selected: '[&>button]:bg-spruce [&>button]:text-onspruce',
  today: '[&>button]:font-semibold [&>button]:underline',
  outside: 'text-muted',
};

/** One day, chosen from a calendar; empty for none. The value is a date of ISO 8601, as in addresses and the API. */
export function DatePicker({
  value,
  onValue,
  label,
  name = label,
  empty = texts.anyDay,
  fit = 'place',
  disabled = false,
}: {
  value: string;
  onValue: (value: string) => void;
  label: string;
  /** What it is called for those who do not see where it stands. */
  name?: string;
  /** Shown where no day is chosen. */
  empty?: string;
  /** `text`: within a sentence. */
  fit?: 'place' | 'words' | 'text';
  disabled?: boolean;
}) {
  const [open, setOpen] = useState(false);
  const parsed = value === '' ? undefined : parseISO(value);
  const date = parsed && isValid(parsed) ? parsed : undefined;
  const choose = (next: Date | undefined): void => {
    setOpen(false);
    onValue(next ? format(next, 'yyyy-MM-dd') : '');
  };
  const shown = date ? shownDate.format(date) : empty;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        disabled={disabled}
        aria-label={`${name}: ${shown}`}
        className={clsx(
          'items-center gap-1.5 text-left disabled:opacity-50',
          fit === 'text'
            ? 'inline-flex min-h-6 text-sm underline decoration-dotted underline-offset-4 hover:text-ink'
            : 'flex min-h-8 rounded border border-line bg-raised px-2 hover:border-muted',
          fit === 'place' ? 'w-full text-base' : 'text-sm',
          !date && 'text-muted',
        )}
      >
        {fit !== 'text' && <CalendarDays size={14} aria-hidden className="shrink-0 text-muted" />}
        <span className="tabular whitespace-nowrap">{fit === 'place' ? shown : `${label} ${shown}`}</span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={6} className="z-60 rounded border border-line bg-raised p-2 shadow-xl">
          <Suspense fallback={<div className="size-64" />}>
            <DayPicker
              mode="single"
              autoFocus
              showOutsideDays
              selected={date}
              {...(date ? { defaultMonth: date } : {})}
              onSelect={choose}
              classNames={DAY_CLASSES}
              components={{
                Chevron: ({ orientation }) =>
                  orientation === 'left' ? <ChevronLeft size={16} aria-hidden /> : <ChevronRight size={16} aria-hidden />,
              }}
            />
          </Suspense>
          {date && (
            <Button kind="quiet" className="mt-1 w-full justify-center" onClick={() => choose(undefined)}>
              {texts.clearDate}
            </Button>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
