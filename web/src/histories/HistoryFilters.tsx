import { useTeam } from '../api/queries';
import { Button } from '../parts/basics';
import { TypedFilter } from '../parts/TypedFilter';
import { useAddressBar } from '../parts/useAddressBar';
import { Option, Select } from '../parts/Select';
import { DatePicker } from '../parts/DatePicker';
import { common } from '../parts/words';
import { historyFilters as texts } from './words';

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
    <div className="mb-3 flex flex-wrap items-center gap-1.5" role="search" aria-label={texts.filterTheHistory}>
      <TypedFilter
        label={common.words}
        placeholder={texts.wordsInIt}
        name="text"
        value={filter.text ?? ''}
        onSet={(name, value) => set({ [name]: value })}
      />
      <Select aria-label={common.direction} fit="words" value={filter.direction ?? ''} onValue={(value) => set({ direction: value })}>
        <Option value="">{texts.sentAndReceived}</Option>
        <Option value="sent">{texts.sent}</Option>
        <Option value="received">{texts.received}</Option>
      </Select>
      <Select aria-label={texts.colleague} fit="words" value={filter.colleague ?? ''} onValue={(value) => set({ colleague: value })}>
        <Option value="">{texts.anyOfUs}</Option>
        {team.data?.members.map((member) => (
          <Option key={member.id} value={member.id}>
            {member.name}
          </Option>
        ))}
      </Select>
      {within.length > 0 && (
        <Select aria-label={texts.under} fit="words" value={filter.under ?? ''} onValue={(value) => set({ under: value })}>
          <Option value="">{texts.peopleAndDeals}</Option>
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
        {texts.withFiles}
      </label>
      <DatePicker fit="words" label={common.until} value={filter.until ?? ''} onValue={(value) => set({ until: value })} />
      {filter.person && <span className="rounded bg-sunk px-2 py-1 font-mono text-xs">{filter.person}</span>}
      {Object.keys(filter).length > 0 && (
        <Button kind="quiet" onClick={() => set(Object.fromEntries(NAMES.map((name) => [name, ''])))}>
          {texts.clear}
        </Button>
      )}
    </div>
  );
}
