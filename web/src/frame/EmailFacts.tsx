import type { EmailDetail } from '@fulvet/contract';
import { Link } from 'react-router';
import { Address } from '../parts/basics';
import { bytes } from '../parts/numbers';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { emailFacts as words } from './panel/words';

export const ROLE_LABELS = {
  from: common.from,
  claimed: words.writtenBy,
  sender: words.sender,
  replyTo: words.replyTo,
  to: 'To',
  cc: words.cc,
  bcc: words.bcc,
};

const CHECK_TEXTS = {
  passed: words.theReceivingServerConfirmed,
  failed: words.theReceivingServerFound,
  none: words.noCheckOfIts,
};

const FROM_PEOPLE: Readonly<Record<string, string>> = { person: words.writtenByAPerson, event: words.eventOfACalendar };

export function Facts({ email }: { email: EmailDetail }) {
  return (
    <section className="mt-4 border-t border-line pt-3 text-sm text-muted" aria-label={words.facts}>
      <p>
        {filled(words.inTheMailboxesOf, {
          sightings: email.sightings.map((sighting, at) => (
            <span key={`${sighting.mailbox}${sighting.folder}`}>
              {at > 0 && ', '}
              <Address>{sighting.mailbox}</Address>
            </span>
          )),
        })}
      </p>
      <p>
        {FROM_PEOPLE[email.mailClass] ?? words.machineMail(email.mailClass)}
        {email.classProof && words.by(email.classProof.header, email.classProof.value ? ` “${email.classProof.value}”` : '')}.{' '}
        {bytes(email.size)}. {CHECK_TEXTS[email.senderCheck]}{' '}
        {email.rulebookVersion !== null && words.rulebookVersion(email.rulebookVersion)}
      </p>
      {email.messageId && <p>{filled(words.messageId, { messageId: <Address>{email.messageId}</Address> })}</p>}
      {email.problems.map((problem) => (
        <p key={problem.code + problem.message} className="text-ochre">
          {problem.message}
        </p>
      ))}
      <p className="mt-1 flex flex-wrap gap-x-3">
        {email.content && (
          <a className="text-spruce hover:underline" href={`/api/v1/emails/${email.id}/source`} download>
            {words.sourceEml}
          </a>
        )}
        {email.owned && email.messageId && (
          // RFC 2392: by its Message-ID, in whatever program reads mail on this machine.
          <a className="text-spruce hover:underline" href={`mid:${encodeURIComponent(email.messageId).replace('%40', '@')}`}>
            {words.inYourMailProgram}
          </a>
        )}
        <Link className="text-spruce hover:underline" to={`/all-mail?conversation=${email.conversationId}`}>
          {words.theWholeConversation}
        </Link>
        {email.externalDomains.slice(0, 2).map((domain) => (
          <Link key={domain} className="text-spruce hover:underline" to={`/domains/${domain}`}>
            {words.allWith(domain)}
          </Link>
        ))}
      </p>
    </section>
  );
}
