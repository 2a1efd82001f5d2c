import { useMailboxes } from '../api/queries';
import { Address } from '../parts/basics';
import { Select } from '../parts/Select';
import { Ticks } from '../parts/Ticks';

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
export function MailboxTicks(props: { chosen: readonly string[]; onChange: (mailboxes: string[]) => void; label: string; none: string }) {
  const mailboxes = useMailboxes().data?.mailboxes ?? [];
  return <Ticks {...props} options={mailboxes.map((one) => ({ value: one.address, shown: <Address>{one.address}</Address> }))} />;
}
