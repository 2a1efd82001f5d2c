import { useTeam } from '../api/queries';
import { Button } from '../parts/basics';
import { TypedFilter } from '../parts/TypedFilter';
import { useAddressBar } from '../parts/useAddressBar';
import { Option, Select } from '../parts/Select';
import { DatePicker } from '../parts/DatePicker';

const NAMES = ['text', 'direction', 'colleague', 'attachment', 'until', 'person', 'under'] as const;

/** The filters of a history, as the address bar holds them. */
export function useHistoryFilter(): [Record<string, string>, (values: Record<string, string>) => void] {
  const [params, set] = useAddressBar();
  return [Object.fromEntries(NAMES.flatMap((name) => (params.get(name) ? [[name, params.get(name) ?? '']] : []))), set];
}

/** Words, sides, colleagues, attachments, and a day to jump to. */
export function HistoryFilters({
  filter,
  set,
  within = [],
}: {
  filter: Record<string, string>;
  set: (values: Record<string, string>) => void;
  /** Records of an account that its history can be narrowed to. */
  within?: readonly { key: string; name: string }[];
}) {
  const team = useTeam();
  return (
    <div className="mb-3 flex flex-wrap items-center gap-1.5" role="search" aria-label="Filter the history">
      <TypedFilter
        label="Words"
        placeholder="Words in it"
        name="text"
        value={filter.text ?? ''}
        onSet={(name, value) => set({ [name]: value })}
      />
      <Select aria-label="Direction" fit="words" value={filter.direction ?? ''} onValue={(value) => set({ direction: value })}>
        <Option value="">Sent and received</Option>
        <Option value="sent">Sent</Option>
        <Option value="received">Received</Option>
      </Select>
      <Select aria-label="Colleague" fit="words" value={filter.colleague ?? ''} onValue={(value) => set({ colleague: value })}>
        <Option value="">Any of us</Option>
        {team.data?.members.map((member) => (
          <Option key={member.id} value={member.id}>
            {member.name}
          </Option>
        ))}
      </Select>
      {within.length > 0 && (
        <Select aria-label="Under" fit="words" value={filter.under ?? ''} onValue={(value) => set({ under: value })}>
          <Option value="">People and deals</Option>
          {within.map((item) => (
            <Option key={item.key} value={item.key}>
              {item.name}
            </Option>
          ))}
        </Select>
      )}
      <label className="flex items-center gap-1 text-sm">
        <input
          type="checkbox"
          checked={filter.attachment === 'yes'}
          onChange={(event) => set({ attachment: event.target.checked ? 'yes' : '' })}
        />{' '}
        with files
      </label>
      <DatePicker fit="words" label="Until" value={filter.until ?? ''} onValue={(value) => set({ until: value })} />
      {filter.person && <span className="rounded bg-sunk px-2 py-1 font-mono text-xs">{filter.person}</span>}
      {Object.keys(filter).length > 0 && (
        <Button kind="quiet" onClick={() => set(Object.fromEntries(NAMES.map((name) => [name, ''])))}>
          Clear
        </Button>
      )}
    </div>
  );
}
