import type { Arrival, RecordRow } from '@fulvet/contract';
import { Link } from 'react-router';
import { useRecords } from '../../api/queries';
import type { RecordFilter } from '../../api/queries';
import { Moment } from '../../parts/Moment';
import { count } from '../../parts/numbers';
import { recordPath } from '../../parts/people';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { Door, EmailDoor, HomeList, RecordLine } from './Door';
import { common } from '../../parts/words';
import { filled } from '../../parts/filled';
import { teamLists as words } from './words';

const SHOWN = 6;
const QUIET_DEALS = { open: 'yes', quiet: '30', sort: 'lastEmail', descending: 'yes' };
const UNANSWERED = { unanswered: 'yes', sort: 'unanswered', descending: 'yes' };

/** Open deals without mail for a month. */
export const QuietDeals = () => <RecordLines title={words.quietDealsNoEmail} kind="deal" filter={QUIET_DEALS} />;

/** Accounts whose last email waits for an answer. */
export const UnansweredCustomers = () => <RecordLines title={words.unansweredCustomers} kind="account" filter={UNANSWERED} />;

function RecordLines({ title, kind, filter }: { title: string; kind: 'deal' | 'account'; filter: RecordFilter }) {
  const found = useRecords(kind, filter).data?.pages[0];
  if (!found || found.total === 0) return null;
  const all = `/records/${kind}?${new URLSearchParams(filter).toString()}`;
  return (
    <HomeList
      title={title}
      aside={
        <Link to={all} className="tabular text-sm text-spruce hover:underline">
          {words.all(found.total)}
        </Link>
      }
    >
      {found.records.slice(0, SHOWN).map((record) => (
        <RecordDoor key={record.id} record={record} />
      ))}
    </HomeList>
  );
}

function RecordDoor({ record }: { record: RecordRow }) {
  return (
    <Door to={recordPath(record.kind, record.id)}>
      <span className="min-w-0 grow">
        <span className="block truncate">{record.name}</span>
        <span className="block truncate text-sm text-muted">
          {[record.account?.name, record.stage, record.owner].filter(Boolean).join(' · ')}
        </span>
      </span>
      <span className="tabular text-sm whitespace-nowrap text-muted">
        {record.kind === 'account' && record.unansweredSince
          ? filled(words.unansweredSince, { unanswered: count(record.unanswered), unansweredSince: <Moment at={record.unansweredSince} /> })
          : record.lastContactAt && <Moment at={record.lastContactAt} />}
      </span>
    </Door>
  );
}

/** The reader's conversations in which someone waits for their answer. */
export function Unanswered({ items }: { items: Arrival['unanswered'] }) {
  const decision = useDecisionPanel();
  if (items.length === 0) return null;
  return (
    <HomeList title={words.wroteToYouNot}>
      {items.map((item) => (
        <li key={item.emailId}>
          <EmailDoor
            title={item.from}
            aside={<Moment at={item.at} />}
            line={item.subject || common.noSubject}
            onOpen={() => decision.open(item.emailId)}
          />
          {item.record && <RecordLine record={item.record} />}
        </li>
      ))}
    </HomeList>
  );
}
