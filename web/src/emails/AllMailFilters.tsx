import { useMailboxes, useWorkspace } from '../api/queries';
import { Button } from '../parts/basics';
import { DatePicker } from '../parts/DatePicker';
import { FilterBar } from '../parts/FilterBar';
import { OUTCOME_LABELS } from '../parts/OutcomeMark';
import { Option, Select } from '../parts/Select';
import { TypedFilter } from '../parts/TypedFilter';
import { common } from '../parts/words';
import { allMailFilters as texts, mailKinds } from './words';

const KINDS = ['person', 'event', 'calendar', 'newsletter', 'notice', 'auto-reply', 'bounce'] as const;

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
  const isMeasured = useWorkspace().data?.measuring.isOn ?? false;
  return (
    <FilterBar
      label={texts.filterAllMail}
      used={Object.keys(filter).filter((name) => name !== 'text').length}
      search={<TypedFilter label={common.words} name="text" value={filter.text ?? ''} onSet={set} wide />}
    >
      <Select aria-label={texts.outcome} fit="words" value={filter.outcome ?? ''} onValue={(value) => set('outcome', value)}>
        <Option value="">{texts.anyOutcome}</Option>
        {(['filed', 'waiting', 'unfiled', 'kept out', 'undecided'] as const).map((value) => (
          <Option key={value} value={value}>
            {OUTCOME_LABELS[value]}
          </Option>
        ))}
      </Select>
      <Select aria-label={common.direction} fit="words" value={filter.direction ?? ''} onValue={(value) => set('direction', value)}>
        <Option value="">{texts.eitherDirection}</Option>
        {['sent', 'received', 'internal'].map((value) => (
          <Option value={value} key={value}>
            {value}
          </Option>
        ))}
      </Select>
      <Select aria-label={texts.kind} fit="words" value={filter.mailClass ?? ''} onValue={(value) => set('mailClass', value)}>
        <Option value="">{texts.anyKind}</Option>
        {KINDS.map((value) => (
          <Option value={value} key={value}>
            {mailKinds[value]}
          </Option>
        ))}
      </Select>
      <Select aria-label={texts.answered} fit="words" value={filter.answered ?? ''} onValue={(value) => set('answered', value)}>
        <Option value="">{texts.answeredOrNot}</Option>
        <Option value="no">{texts.sentNotAnswered}</Option>
        <Option value="yes">{texts.sentAndAnswered}</Option>
      </Select>
      {(isMeasured || filter.opened) && (
        <Select aria-label={texts.opened} fit="words" value={filter.opened ?? ''} onValue={(value) => set('opened', value)}>
          <Option value="">{texts.openedOrNot}</Option>
          <Option value="yes">{texts.measuredAndOpened}</Option>
          <Option value="no">{texts.measuredNotOpened}</Option>
        </Select>
      )}
      <Select aria-label={common.mailbox} fit="words" value={filter.mailbox ?? ''} onValue={(value) => set('mailbox', value)}>
        <Option value="">{texts.everyMailbox}</Option>
        {mailboxes.data?.mailboxes.map((mailbox) => (
          <Option key={mailbox.id} value={mailbox.address}>
            {mailbox.address}
          </Option>
        ))}
      </Select>
      <TypedFilter label={texts.addressOfAPerson} name="person" value={filter.person ?? ''} onSet={set} />
      <TypedFilter label={texts.domain} name="domain" value={filter.domain ?? ''} onSet={set} />
      <DatePicker fit="words" label={common.from} value={filter.from ?? ''} onValue={(value) => set('from', value)} />
      <DatePicker fit="words" label={common.until} value={filter.until ?? ''} onValue={(value) => set('until', value)} />
      {filter.conversation && <span className="rounded bg-sunk px-2 py-1 text-sm">{texts.oneConversation}</span>}
      {filter.problems && (
        <span className="rounded bg-sunk px-2 py-1 text-sm">{filter.problems === 'damaged' ? texts.sourceDamaged : texts.readInPart}</span>
      )}
      {(filter.rule ?? filter.corrected) && (
        <span className="rounded bg-sunk px-2 py-1 text-sm">{filter.corrected === 'yes' ? texts.filedByARule : texts.filedByOneRule}</span>
      )}
      {filter.applied && <span className="rounded bg-sunk px-2 py-1 text-sm">{texts.aStepDecidedBy}</span>}
      {Object.keys(filter).length > 0 && (
        <Button kind="quiet" onClick={clear}>
          {texts.clearFilters}
        </Button>
      )}
    </FilterBar>
  );
}
