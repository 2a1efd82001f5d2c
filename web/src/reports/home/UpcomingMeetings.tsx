import type { Arrival } from '@fulvet/contract';
import { Link } from 'react-router';
import { recordPath } from '../../parts/people';
import { spanText } from '../../parts/spanText';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { HomeList } from './Door';
import { upcomingMeetings as words } from './words';

/** Meetings of the next two weeks that the reader's mail invites to; each opens the email that says so. */
export default function UpcomingMeetings({ meetings }: { meetings: Arrival['meetings'] }) {
  const decision = useDecisionPanel();
  return (
    <HomeList title={words.upcomingMeetings}>
      {meetings.map((meeting) => (
        <li key={`${meeting.emailId} ${meeting.at}`}>
          <button type="button" className="block w-full px-1 py-1.5 text-left hover:bg-sunk" onClick={() => decision.open(meeting.emailId)}>
            <span className="flex flex-wrap gap-x-2">
              <span className="truncate font-medium">{meeting.summary || words.noTitle}</span>
              <span className="tabular ml-auto text-sm whitespace-nowrap text-muted">{spanText(meeting.at, meeting.until)}</span>
            </span>
            {meeting.location && <span className="block truncate text-muted">{meeting.location}</span>}
          </button>
          {meeting.record && (
            <Link
              to={recordPath(meeting.record.kind, meeting.record.id)}
              className="block truncate px-1 pb-1.5 text-sm text-spruce hover:underline"
            >
              {meeting.record.name}
            </Link>
          )}
        </li>
      ))}
    </HomeList>
  );
}
