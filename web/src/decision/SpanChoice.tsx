import { useMailboxes } from '../api/queries';
import { Address } from '../parts/basics';
import { Option, Select } from '../parts/Select';
import { Ticks } from '../parts/Ticks';
import { common } from '../parts/words';
import { spanChoice as words } from './words';

/** Chooses how far back. */
export function DaysChoice({ days, onChange }: { days: number | null; onChange: (days: number | null) => void }) {
  return (
    <Select
      aria-label={common.howFarBack}
      value={days === null ? '' : String(days)}
      onValue={(value) => onChange(value === '' ? null : Number(value))}
    >
      <Option value="">{words.allPastMail}</Option>
      <Option value="30">{words.theLast30Days}</Option>
      <Option value="90">{words.theLast90Days}</Option>
      <Option value="365">{words.theLastYear}</Option>
    </Select>
  );
}

/** Whether records that mail created go, where the rulebook would not create them. */
export function WithoutMade({ checked, onChange }: { checked: boolean; onChange: (checked: boolean) => void }) {
  return (
    <label className="flex gap-2">
      <input type="checkbox" className="mt-1 h-fit" checked={checked} onChange={(event) => onChange(event.target.checked)} />
      <span>
        {words.removeTheRecordsThat}
        <span className="block text-sm text-muted">{words.contactsLeadsAndAccounts}</span>
      </span>
    </label>
  );
}

/** Chooses mailboxes by ticking them; `none` says what no tick means. */
export function MailboxTicks(props: { chosen: readonly string[]; onChange: (mailboxes: string[]) => void; label: string; none: string }) {
  const mailboxes = useMailboxes().data?.mailboxes ?? [];
  return (
    <Ticks {...props} options={mailboxes.map((mailbox) => ({ value: mailbox.address, shown: <Address>{mailbox.address}</Address> }))} />
  );
}
