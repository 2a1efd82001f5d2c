import { useMailboxes } from '../api/queries';
import { Button } from '../parts/basics';
import { DatePicker } from '../parts/DatePicker';
import { FilterBar } from '../parts/FilterBar';
import { OUTCOME_LABELS } from '../parts/OutcomeMark';
import { Option, Select } from '../parts/Select';
import { TypedFilter } from '../parts/TypedFilter';

/** What narrows the list of all mail; kept in the address bar. */
export function AllMailFilters({
  filter,
  set,
  clear,
}: {
  filter: Record<string, string>;
  set: (name: string, value: string) => void;
  clear: () => void;
}) {
  const mailboxes = useMailboxes();
  return (
    <FilterBar
      label="Filter all mail"
      used={Object.keys(filter).filter((name) => name !== 'text').length}
      search={<TypedFilter label="Words" name="text" value={filter.text ?? ''} onSet={set} wide />}
    >
      <Select aria-label="Outcome" fit="words" value={filter.outcome ?? ''} onValue={(value) => set('outcome', value)}>
        <Option value="">Any outcome</Option>
        {(['filed', 'waiting', 'unfiled', 'kept out', 'undecided'] as const).map((value) => (
          <Option key={value} value={value}>
            {OUTCOME_LABELS[value]}
          </Option>
        ))}
      </Select>
      <Select aria-label="Direction" fit="words" value={filter.direction ?? ''} onValue={(value) => set('direction', value)}>
        <Option value="">Either direction</Option>
        {['sent', 'received', 'internal'].map((value) => (
          <Option value={value} key={value}>
            {value}
          </Option>
        ))}
      </Select>
      <Select aria-label="Mailbox" fit="words" value={filter.mailbox ?? ''} onValue={(value) => set('mailbox', value)}>
        <Option value="">Every mailbox</Option>
        {mailboxes.data?.mailboxes.map((mailbox) => (
          <Option key={mailbox.id} value={mailbox.address}>
            {mailbox.address}
          </Option>
        ))}
      </Select>
      <TypedFilter label="Address of a person" name="person" value={filter.person ?? ''} onSet={set} />
      <TypedFilter label="Domain" name="domain" value={filter.domain ?? ''} onSet={set} />
      <DatePicker fit="words" label="From" value={filter.from ?? ''} onValue={(value) => set('from', value)} />
      <DatePicker fit="words" label="Until" value={filter.until ?? ''} onValue={(value) => set('until', value)} />
      {filter.conversation && <span className="rounded bg-sunk px-2 py-1 text-sm">one conversation</span>}
      {filter.problems && (
        <span className="rounded bg-sunk px-2 py-1 text-sm">{filter.problems === 'damaged' ? 'source damaged' : 'read in part'}</span>
      )}
      {(filter.rule ?? filter.corrected) && (
        <span className="rounded bg-sunk px-2 py-1 text-sm">
          {filter.corrected === 'yes' ? 'filed by a rule, corrected by hand' : 'filed by one rule'}
        </span>
      )}
      {filter.applied && <span className="rounded bg-sunk px-2 py-1 text-sm">a step decided by one rule</span>}
      {filter.mailClass && <span className="rounded bg-sunk px-2 py-1 text-sm">{filter.mailClass}</span>}
      {Object.keys(filter).length > 0 && (
        <Button kind="quiet" onClick={clear}>
          Clear filters
        </Button>
      )}
    </FilterBar>
  );
}
