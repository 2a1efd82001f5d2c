import type { ReactNode } from 'react';
import { ticks as words } from './words';

/** Several of a list, chosen by ticking them; `none` says what no tick means. */
export function Ticks({
  label,
  none,
  options,
  chosen,
  onChange,
}: {
  label: string;
  none: string;
  options: readonly { value: string; shown: ReactNode }[];
  chosen: readonly string[];
  onChange: (chosen: string[]) => void;
}) {
  return (
    <fieldset>
      <legend className="text-sm font-medium">
        {label} <span className="font-normal text-muted">{chosen.length === 0 ? none : words.chosen(chosen.length)}</span>
      </legend>
      <ul className="mt-1 max-h-36 overflow-y-auto rounded border border-line px-2 py-1 empty:hidden">
        {options.map((option) => (
          <li key={option.value}>
            <label className="flex items-baseline gap-2 text-sm">
              <input
                type="checkbox"
                checked={chosen.includes(option.value)}
                onChange={(event) =>
                  onChange(event.target.checked ? [...chosen, option.value] : chosen.filter((it) => it !== option.value))
                }
              />
              {option.shown}
            </label>
          </li>
        ))}
      </ul>
    </fieldset>
  );
}
