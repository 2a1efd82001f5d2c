import type { Meeting } from '@fulvet/contract';
import { CalendarClock } from 'lucide-react';
import { nameOf } from '../parts/people';
import { spanText } from '../parts/spanText';
import { meetings as texts } from './words';

interface Attached {
  position: number;
  name: string;
  type: string;
  size: number;
  inline: boolean;
}

const MOST_NAMED = 8;

const isCalendar = ({ type }: Attached): boolean => type === 'text/calendar' || type === 'application/ics';

type Named = Parameters<typeof nameOf>[0];

const SHOWN_ANSWERS = ['accepted', 'tentative', 'declined'] as const;

/** Who comes, who may, and who does not. */
function Answers({ answers, people }: { answers: Meeting['answers']; people: readonly Named[] }) {
  const names = new Map(people.map((person) => [person.address, nameOf(person)]));
  return SHOWN_ANSWERS.map((answer) => {
    const those = Object.keys(answers).filter((address) => answers[address] === answer);
    return (
      those.length > 0 && (
        <p key={answer} className="text-sm break-words">
          {texts.named(
            texts[answer],
            those
              .slice(0, MOST_NAMED)
              .map((address) => names.get(address) ?? address)
              .join(', '),
            those.length - MOST_NAMED,
          )}
        </p>
      )
    );
  });
}

/** What is attached beside the calendar files whose meetings are shown. */
export const besideMeetings = <A extends Attached>(attachments: readonly A[], meetings: readonly Meeting[]): readonly A[] =>
  meetings.length === 0 ? attachments : attachments.filter((item) => !isCalendar(item));

/** The meetings that an email invites to or cancels, with the calendar file for one's own calendar. */
export function Meetings({
  emailId,
  meetings,
  attachments,
  people,
}: {
  emailId: number;
  meetings: readonly Meeting[];
  attachments: readonly Attached[];
  /** Whose names are known. */
  people: readonly Named[];
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
        <Answers answers={meeting.answers} people={people} />
        {file && (
          <a className="text-sm text-spruce hover:underline" href={`/api/v1/emails/${emailId}/attachments/${file.position}`} download>
            {texts.downloadTheCalendarFile}
          </a>
        )}
      </div>
    </section>
  ));
}
