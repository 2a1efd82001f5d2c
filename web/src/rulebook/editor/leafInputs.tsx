import { TextInput } from '../../parts/basics';
import { leafInputs as texts } from './words';

export function Value({
  label,
  value,
  placeholder,
  onChange,
}: {
  label: string;
  value: string;
  placeholder: string;
  onChange: (value: string) => void;
}) {
  return (
    <TextInput
      aria-label={label}
      className="inline-block min-h-7! w-56! max-w-full py-0! font-mono text-[0.92em]"
      value={value}
      placeholder={placeholder}
      spellCheck={false}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

export function Num({ label, value, step, onChange }: { label: string; value: number; step: number; onChange: (value: number) => void }) {
  return (
    <TextInput
      aria-label={label}
      type="number"
      min={0}
      step={step}
      className="inline-block min-h-7! w-24! py-0!"
      value={value}
      onChange={(event) => onChange(Math.max(0, Number(event.target.value) || 0))}
    />
  );
}

/** Several words or phrases, parted by commas. */
export function Words({
  label,
  values,
  mono = false,
  onChange,
}: {
  label: string;
  values: readonly string[];
  mono?: boolean;
  onChange: (values: string[]) => void;
}) {
  return (
    <TextInput
      aria-label={texts.separatedByCommas(label)}
      className={`inline-block min-h-7! w-72! max-w-full py-0! ${mono ? 'font-mono text-[0.92em]' : ''}`}
      defaultValue={values.join(', ')}
      placeholder={texts.oneAnother}
      onChange={(event) =>
        onChange(
          event.target.value
            .split(',')
            .map((part) => part.trim())
            .filter(Boolean),
        )
      }
    />
  );
}

export function Several<T extends string>({
  label,
  all,
  chosen,
  onChange,
}: {
  label: string;
  all: Record<T, string>;
  chosen: readonly T[];
  onChange: (chosen: T[]) => void;
}) {
  return (
    <span role="group" aria-label={label} className="inline-flex flex-wrap gap-x-3">
      {(Object.entries(all) as [T, string][]).map(([value, text]) => (
        <label key={value} className="inline-flex items-center gap-1">
          <input
            type="checkbox"
            checked={chosen.includes(value)}
            onChange={(event) => onChange(event.target.checked ? [...chosen, value] : chosen.filter((t) => t !== value))}
          />
          {text}
        </label>
      ))}
    </span>
  );
}
