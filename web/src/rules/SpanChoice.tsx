import { useMailboxes } from '../api/queries';
import { Address } from '../parts/basics';
import { Select } from '../parts/Select';

/** Chooses how far back. */
export function DaysChoice({ days, onChange }: { days: number | null; onChange: (days: number | null) => void }) {
  return (
    <Select
      aria-label="How far back"
      value={days === null ? '' : String(days)}
      onChange={(event) => onChange(event.target.value === '' ? null : Number(event.target.value))}
    >
      <option value="">all past mail</option>
      <option value="30">the last 30 days</option>
      <option value="90">the last 90 days</option>
      <option value="365">the last year</option>
    </Select>
  );
}

/** Chooses mailboxes by ticking them; `none` says what no tick means. */
export function MailboxTicks({
  chosen,
  onChange,
  label,
  none,
}: {
  chosen: readonly string[];
  onChange: (mailboxes: string[]) => void;
  label: string;
  none: string;
}) {
  const mailboxes = useMailboxes().data?.mailboxes ?? [];
  return (
    <fieldset>
      <legend className="text-sm font-medium">
        {label} <span className="font-normal text-muted">{chosen.length === 0 ? none : `${chosen.length} chosen`}</span>
      </legend>
      <ul className="mt-1 grid max-h-36 overflow-y-auto rounded border border-line px-2 py-1">
        {mailboxes.map((one) => (
          <li key={one.id}>
            <label className="flex items-baseline gap-2 text-sm">
              <input
                type="checkbox"
                checked={chosen.includes(one.address)}
                onChange={(event) => onChange(event.target.checked ? [...chosen, one.address] : chosen.filter((it) => it !== one.address))}
              />
              <Address>{one.address}</Address>
            </label>
          </li>
        ))}
      </ul>
    </fieldset>
  );
}
