import type { Arrival } from '@fulvet/contract';
import { spanText } from '../../parts/spanText';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { EmailDoor, HomeList, RecordLine } from './Door';
import { upcomingMeetings as words } from './words';

/** Meetings of the next two weeks that the reader's mail invites to; each opens the email that says so. */
export default function UpcomingMeetings({ meetings }: { meetings: Arrival['meetings'] }) {
  const decision = useDecisionPanel();
  return (
    <HomeList title={words.upcomingMeetings}>
      {meetings.map(({ emailId, at, until, summary, location, record }) => (
        <li key={`${emailId} ${at}`}>
          <EmailDoor title={summary || words.noTitle} aside={spanText(at, until)} line={location} onOpen={() => decision.open(emailId)} />
          {record && <RecordLine record={record} />}
        </li>
      ))}
    </HomeList>
  );
}
