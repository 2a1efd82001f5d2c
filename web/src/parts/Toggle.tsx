import { Switch } from 'radix-ui';
import { toggle as words } from './words';

/** On or off, at once. */
export function Toggle({
  on,
  onChange,
  label,
  disabled = false,
}: {
  on: boolean;
  onChange: (on: boolean) => void;
  label: string;
  disabled?: boolean;
}) {
  return (
    <Switch.Root
      checked={on}
      onCheckedChange={onChange}
      disabled={disabled}
      aria-label={label}
      title={on ? words.on : words.off}
      className="relative my-0.5 h-5 w-9 shrink-0 rounded-full border border-muted bg-sunk transition-colors data-[state=checked]:border-spruce data-[state=checked]:bg-spruce disabled:opacity-50"
    >
      <Switch.Thumb className="block size-3.5 translate-x-0.5 rounded-full bg-muted transition-transform data-[state=checked]:translate-x-4.5 data-[state=checked]:bg-onspruce" />
    </Switch.Root>
  );
}
