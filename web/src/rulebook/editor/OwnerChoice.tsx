import { useTeam } from '../../api/queries';
import { Choice } from '../../parts/Choice';
import { OWNER_OPTIONS } from '../defaultSentences';

/** Chooses who owns the records that are created: by the mailbox, by the account, or a member. */
export function OwnerChoice({
  value,
  disabled = false,
  onChange,
}: {
  value: string;
  disabled?: boolean;
  onChange: (owner: string) => void;
}) {
  const members = useTeam().data?.members ?? [];
  const options = [...OWNER_OPTIONS, ...members.map((member) => ({ value: member.email.toLowerCase(), label: `owned by ${member.name}` }))];
  return (
    <Choice
      label="Owner"
      value={value}
      options={options}
      shown={options.find((option) => option.value === value)?.label ?? `owned by ${value}`}
      disabled={disabled}
      onChange={onChange}
    />
  );
}
