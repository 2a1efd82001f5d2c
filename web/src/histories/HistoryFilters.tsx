import { useTeam } from '../api/queries';
import { Button } from '../parts/basics';
import { TypedFilter } from '../parts/TypedFilter';
import { useAddressBar } from '../parts/useAddressBar';

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
  const select = 'min-h-8 max-w-40 rounded border border-line bg-raised px-1.5 text-sm';
  return (
    <div className="mb-3 flex flex-wrap items-center gap-1.5" role="search" aria-label="Filter the history">
      <TypedFilter
        label="Words"
        placeholder="Words in it"
        name="text"
        value={filter.text ?? ''}
        onSet={(name, value) => set({ [name]: value })}
      />
      <select
        aria-label="Direction"
        className={select}
        value={filter.direction ?? ''}
        onChange={(event) => set({ direction: event.target.value })}
      >
        <option value="">Sent and received</option>
        <option value="sent">Sent</option>
        <option value="received">Received</option>
      </select>
      <select
        aria-label="Colleague"
        className={select}
        value={filter.colleague ?? ''}
        onChange={(event) => set({ colleague: event.target.value })}
      >
        <option value="">Any of us</option>
        {team.data?.members.map((member) => (
          <option key={member.id} value={member.id}>
            {member.name}
          </option>
        ))}
      </select>
      {within.length > 0 && (
        <select aria-label="Under" className={select} value={filter.under ?? ''} onChange={(event) => set({ under: event.target.value })}>
          <option value="">People and deals</option>
          {within.map((item) => (
            <option key={item.key} value={item.key}>
              {item.name}
            </option>
          ))}
        </select>
      )}
      <label className="flex items-center gap-1 text-sm">
        <input
          type="checkbox"
          checked={filter.attachment === 'yes'}
          onChange={(event) => set({ attachment: event.target.checked ? 'yes' : '' })}
        />{' '}
        with files
      </label>
      <label className="flex items-center gap-1 text-sm text-muted">
        up to{' '}
        <input
          type="date"
          aria-label="Up to this day"
          className={select}
          value={filter.until ?? ''}
          onChange={(event) => set({ until: event.target.value })}
        />
      </label>
      {filter.person && <span className="rounded bg-sunk px-2 py-1 font-mono text-xs">{filter.person}</span>}
      {Object.keys(filter).length > 0 && (
        <Button kind="quiet" onClick={() => set(Object.fromEntries(NAMES.map((name) => [name, ''])))}>
          Clear
        </Button>
      )}
    </div>
  );
}
