import { useTeam } from '../../api/queries';
import { Choice } from '../../parts/Choice';
import { OWNER_OPTIONS } from '../sentences/defaultSentences';
import { common } from '../../parts/words';
import { ownerChoice as words } from './words';

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
  const options = [
    ...OWNER_OPTIONS,
    ...members.map((member) => ({ value: member.email.toLowerCase(), label: words.ownedBy(member.name) })),
  ];
  return (
    <Choice
      label={common.owner}
      value={value}
      options={options}
      shown={options.find((option) => option.value === value)?.label ?? words.ownedByForValue(value)}
      disabled={disabled}
      onChange={onChange}
    />
  );
}
