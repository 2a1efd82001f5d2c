import type { Insights } from '@fulvet/contract';
import { Link } from 'react-router';
import type { HistorySource } from './queries';
import { useInsights } from './queries';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Trouble } from '../parts/basics';
import { spanText } from '../parts/spanText';
import { exactMoment, Moment } from '../parts/Moment';
import { counted, count } from '../parts/numbers';
import { recordPath } from '../parts/people';
import { MonthBars } from './MonthBars';
import { activityKinds, insightsPanel as texts } from './words';

/** What people look at before they write. */
export function InsightsPanel({ source, onPerson }: { source: HistorySource; onPerson: (address: string) => void }) {
  const insights = useInsights(source);
  const { data } = insights;
  if (insights.isError) return <Trouble error={insights.error} />;
  if (!data || data.figures.emails === 0) return null;
  return (
    <div className="space-y-3" aria-label={texts.atAGlance}>
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
  const { lastEmailAt, lastMetAt, lastBy, lastDirection } = data.figures;
  const { ours, theirs } = data.answerHours;
  const met = lastMetAt && lastMetAt > (lastEmailAt ?? '') ? lastMetAt : null;
  const logged = data.lastLogged && data.lastLogged.at > (met ?? lastEmailAt ?? '') ? data.lastLogged : null;
  return (
    <dl className="grid grid-cols-[5rem_1fr] gap-x-2 gap-y-0.5">
      {logged && (
        <>
          <dt className="text-muted">{texts.last}</dt>
          <dd>
            <Moment at={logged.at} />, {activityKinds[logged.kind].toLowerCase()}, {texts.loggedBy(logged.writer)}
          </dd>
        </>
      )}
      {!logged && met && (
        <>
          <dt className="text-muted">{texts.last}</dt>
          <dd>
            <Moment at={met} />, {texts.metThem}
          </dd>
        </>
      )}
      {!logged && !met && lastEmailAt && (
        <>
          <dt className="text-muted">{texts.last}</dt>
          <dd>
            <Moment at={lastEmailAt} />,{' '}
            {lastDirection === 'sent'
              ? texts.wrote(lastBy ?? 'we')
              : lastDirection === 'received'
                ? texts.wroteToUs(lastBy ?? 'they')
                : texts.amongUs}
          </dd>
        </>
      )}
      {(ours !== null || theirs !== null) && (
        <>
          <dt className="text-muted">{texts.answers}</dt>
          <dd>
            {[ours === null ? '' : texts.weTake(hours(ours)), theirs === null ? '' : texts.they(hours(theirs))].filter(Boolean).join(', ')}
          </dd>
        </>
      )}
    </dl>
  );
}

/** `40 min`, `5 h`, `3 days`. */
function hours(value: number): string {
  if (value < 1) return texts.min(Math.max(1, Math.round(value * 60)));
  return value < 48 ? `${Math.round(value)} h` : texts.days(Math.round(value / 24));
}

function Meeting({ meeting }: { meeting: Insights['meeting'] }) {
  const docket = useDecisionPanel();
  if (!meeting) return null;
  return (
    <p className="border-l-2 border-spruce pl-2">
      {texts.nextMeeting}{' '}
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
    <section aria-label={texts.notAnswered}>
      <h2 className="text-ochre">{list.length === 1 ? texts.oneConversationIsUnanswered : texts.areNotAnswered(list.length)}</h2>
      <ul>
        {list.map((item) => (
          <li key={item.emailId}>
            <button type="button" className="flex w-full gap-2 rounded text-left hover:bg-sunk" onClick={() => docket.open(item.emailId)}>
              <span className="min-w-0 grow truncate">{item.subject || item.from || texts.aPrivateEmail}</span>
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
    <section aria-label={texts.colleaguesInTouch}>
      <h2 className="text-muted">{texts.colleaguesInTouch}</h2>
      <ul>
        {list.slice(0, 8).map((item) => (
          <li
            key={`${item.colleague}${item.address}`}
            className="flex gap-2"
            title={texts.sentReceivedLast(item.sent, item.received, exactMoment(item.lastAt))}
          >
            <span className="min-w-0 grow break-words">
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
    <section aria-label={texts.openDeals}>
      <h2 className="text-muted">{texts.openDeals}</h2>
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
