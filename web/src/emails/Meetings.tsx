import type { Meeting } from '@fulvet/contract';
import { CalendarClock } from 'lucide-react';
import { spanText } from '../parts/spanText';
import { meetings as texts } from './words';

interface Attached {
  position: number;
  name: string;
  type: string;
  size: number;
  inline: boolean;
}

const isCalendar = ({ type }: Attached): boolean => type === 'text/calendar' || type === 'application/ics';

/** What is attached beside the calendar files whose meetings are shown. */
export const besideMeetings = <A extends Attached>(attachments: readonly A[], meetings: readonly Meeting[]): readonly A[] =>
  meetings.length === 0 ? attachments : attachments.filter((item) => !isCalendar(item));

/** The meetings that an email invites to or cancels, with the calendar file for one's own calendar. */
export function Meetings({
  emailId,
  meetings,
  attachments,
}: {
  emailId: number;
  meetings: readonly Meeting[];
  attachments: readonly Attached[];
}) {
  const file = attachments.find(isCalendar);
  return meetings.map((meeting, at) => (
    <section key={at} aria-label={texts.meeting} className="mt-2 flex max-w-xl gap-2.5 rounded border border-line bg-raised px-3 py-2">
      <CalendarClock size={16} aria-hidden className="mt-0.5 shrink-0 text-muted" />
      <div className="min-w-0">
        <p className="break-words">
          {meeting.cancelled && <strong className="text-brick">{texts.cancelled} </strong>}
          <span className="font-medium">{meeting.summary || texts.meeting}</span>
        </p>
        <p className="tabular text-sm">{spanText(meeting.startsAt, meeting.endsAt)}</p>
        {meeting.location && <p className="text-sm break-words text-muted">{meeting.location}</p>}
        {file && (
          <a className="text-sm text-spruce hover:underline" href={`/api/v1/emails/${emailId}/attachments/${file.position}`} download>
            {texts.downloadTheCalendarFile}
          </a>
        )}
      </div>
    </section>
  ));
}
