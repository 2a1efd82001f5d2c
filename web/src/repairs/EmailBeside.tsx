import { Link } from 'react-router';
import { useEmail } from '../api/queries';
import { Attachments } from '../emails/Attachments';
import { besideMeetings, Meetings } from '../emails/Meetings';
import { BodyText } from '../emails/BodyText';
import { Trouble, Waiting } from '../parts/basics';
import { AnswerButtons } from '../writing/WriteButtons';
import { Moment } from '../parts/Moment';
import { nameOf, recordPath } from '../parts/people';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { emailBeside as texts } from './words';

/** The newest of the emails that the question is about. */
export function EmailBeside({ id }: { id: number }) {
  const email = useEmail(id);
  if (email.isPending) return <Waiting what={common.reading} />;
  if (email.isError) return <Trouble error={email.error} />;
  const { data } = email;
  const { content } = data;
  return (
    <article
      aria-label={common.theEmail}
      className="order-last min-w-0 self-start rounded-md border border-line bg-raised px-4 py-3 xl:order-first"
    >
      {content ? (
        <>
          <h2 className="text-lg leading-snug break-words">{content.subject || common.noSubject}</h2>
          <p className="mb-3 text-sm break-words text-muted">
            {filled(texts.to, {
              participants: content.participants
                .filter((participant) => participant.role === 'from')
                .map(nameOf)
                .join(', '),
              participants2: content.participants
                .filter((participant) => participant.role === 'to' || participant.role === 'cc')
                .slice(0, 6)
                .map(nameOf)
                .join(', '),
              at: <Moment at={data.at} />,
            })}
          </p>
          <BodyText parts={content.parts} />
          <Meetings emailId={id} meetings={content.meetings} attachments={content.attachments} people={content.participants} />
          <Attachments emailId={id} list={besideMeetings(content.attachments, content.meetings)} />
          <AnswerButtons emailId={id} />
        </>
      ) : (
        <p className="text-muted italic">{texts.youMayNotRead(data.sightings.map((sighting) => sighting.mailbox).join(', '))}</p>
      )}
      {data.filings.length > 0 && (
        <p className="mt-3 border-t border-line pt-2 text-sm text-muted">
          {filled(texts.filedUnder, {
            filings: data.filings.map((filing, at) => (
              <span key={`${filing.kind}${filing.id}`}>
                {at > 0 && ', '}
                <Link className="text-spruce hover:underline" to={recordPath(filing.kind, filing.id)}>
                  {filing.name}
                </Link>
              </span>
            )),
          })}
        </p>
      )}
    </article>
  );
}
