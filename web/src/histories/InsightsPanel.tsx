import type { Insights } from '@fulvet/contract';
import { Link } from 'react-router';
import type { HistorySource } from '../api/queries';
import { useInsights } from '../api/queries';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Trouble } from '../parts/basics';
import { spanText } from '../parts/spanText';
import { exactMoment, Moment } from '../parts/Moment';
import { counted, count } from '../parts/numbers';
import { recordPath } from '../parts/people';
import { MonthBars } from './MonthBars';

/** What people look at before they write. */
export function InsightsPanel({ source, onPerson }: { source: HistorySource; onPerson: (address: string) => void }) {
  const insights = useInsights(source);
  const { data } = insights;
  if (insights.isError) return <Trouble error={insights.error} />;
  if (!data || data.figures.emails === 0) return null;
  return (
    <div className="space-y-3" aria-label="At a glance">
      <Contact data={data} />
      <Meeting meeting={data.meeting} />
      <Unanswered list={data.unanswered} />
      <MonthBars months={data.months} />
      <Acquaintances list={data.acquaintances} onPerson={onPerson} />
      <Deals deals={data.deals} />
    </div>
  );
}

function Contact({ data }: { data: Insights }) {
  const { lastEmailAt, lastBy, lastDirection } = data.figures;
  const { ours, theirs } = data.answerHours;
  return (
    <dl className="grid grid-cols-[5rem_1fr] gap-x-2 gap-y-0.5">
      {lastEmailAt && (
        <>
          <dt className="text-muted">Last</dt>
          <dd>
            <Moment at={lastEmailAt} />,{' '}
            {lastDirection === 'sent'
              ? `${lastBy ?? 'we'} wrote`
              : lastDirection === 'received'
                ? `${lastBy ?? 'they'} wrote to us`
                : 'among us'}
          </dd>
        </>
      )}
      {(ours !== null || theirs !== null) && (
        <>
          <dt className="text-muted">Answers</dt>
          <dd>
            {[ours === null ? '' : `we take ${hours(ours)}`, theirs === null ? '' : `they ${hours(theirs)}`].filter(Boolean).join(', ')}
          </dd>
        </>
      )}
    </dl>
  );
}

/** `40 min`, `5 h`, `3 days`. */
function hours(value: number): string {
  if (value < 1) return `${Math.max(1, Math.round(value * 60))} min`;
  return value < 48 ? `${Math.round(value)} h` : `${Math.round(value / 24)} days`;
}

function Meeting({ meeting }: { meeting: Insights['meeting'] }) {
  const docket = useDecisionPanel();
  if (!meeting) return null;
  return (
    <p className="border-l-2 border-spruce pl-2">
      Next meeting{' '}
      <button
        type="button"
        className="font-medium text-spruce hover:underline"
        title={exactMoment(meeting.at)}
        onClick={() => docket.open(meeting.emailId)}
      >
        {spanText(meeting.at, meeting.at)}
      </button>
      <span className="block break-words">{[meeting.summary, meeting.location].filter(Boolean).join(', ')}</span>
    </p>
  );
}

function Unanswered({ list }: { list: Insights['unanswered'] }) {
  const docket = useDecisionPanel();
  if (list.length === 0) return null;
  return (
    <section aria-label="Not answered">
      <h2 className="text-ochre">{list.length === 1 ? 'One conversation is unanswered' : `${list.length} are not answered`}</h2>
      <ul>
        {list.map((item) => (
          <li key={item.emailId}>
            <button type="button" className="flex w-full gap-2 rounded text-left hover:bg-sunk" onClick={() => docket.open(item.emailId)}>
              <span className="min-w-0 grow truncate">{item.subject || item.from || 'a private email'}</span>
              <Moment at={item.since} className="tabular whitespace-nowrap text-muted" />
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Acquaintances({ list, onPerson }: { list: Insights['acquaintances']; onPerson: (address: string) => void }) {
  if (list.length === 0) return null;
  return (
    <section aria-label="Colleagues in touch">
      <h2 className="text-muted">Colleagues in touch</h2>
      <ul>
        {list.slice(0, 8).map((item) => (
          <li
            key={`${item.colleague}${item.address}`}
            className="flex gap-2"
            title={`${item.sent} sent, ${item.received} received; last ${exactMoment(item.lastAt)}`}
          >
            <span className="min-w-0 grow truncate">
              {item.colleague} ·{' '}
              <button type="button" className="text-spruce hover:underline" onClick={() => onPerson(item.address)}>
                {item.person}
              </button>
            </span>
            <span className="tabular whitespace-nowrap text-muted">
              {counted(item.sent + item.received, 'email')} · <Moment at={item.lastAt} />
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Deals({ deals }: { deals: Insights['deals'] }) {
  if (deals.length === 0) return null;
  return (
    <section aria-label="Open deals">
      <h2 className="text-muted">Open deals</h2>
      <ul>
        {deals.map((deal) => (
          <li key={deal.id}>
            <Link to={recordPath('deal', deal.id)} className="flex gap-2 rounded hover:bg-sunk">
              <span className="min-w-0 grow truncate text-spruce">{deal.name}</span>
              <span className="whitespace-nowrap text-muted">{deal.stage}</span>
              {deal.amount !== null && <span className="tabular whitespace-nowrap">{`${count(deal.amount)} ${deal.currency}`.trim()}</span>}
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
