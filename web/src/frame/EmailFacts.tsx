import type { EmailDetail } from '@fulvet/contract';
import { Link } from 'react-router';
import { Address } from '../parts/basics';
import { bytes } from '../parts/numbers';

export const ROLE_LABELS = { from: 'From', claimed: 'Written by?', sender: 'Sender', replyTo: 'Reply to', to: 'To', cc: 'Cc', bcc: 'Bcc' };

const CHECK_TEXTS = {
  passed: 'The receiving server confirmed its sender.',
  failed: 'The receiving server found its sender forged.',
  none: 'No check of its sender is known.',
};

export function Facts({ email }: { email: EmailDetail }) {
  return (
    <section className="mt-4 border-t border-line pt-3 text-sm text-muted" aria-label="Facts">
      <p>
        In the mailboxes of{' '}
        {email.sightings.map((sighting, at) => (
          <span key={`${sighting.mailbox}${sighting.folder}`}>
            {at > 0 && ', '}
            <Address>{sighting.mailbox}</Address>
          </span>
        ))}
        .
      </p>
      <p>
        {email.mailClass === 'person' ? 'Written by a person' : `Machine mail: ${email.mailClass}`}
        {email.classProof && `, by ${email.classProof.header}${email.classProof.value ? ` “${email.classProof.value}”` : ''}`}.{' '}
        {bytes(email.size)}. {CHECK_TEXTS[email.senderCheck]}{' '}
        {email.rulebookVersion !== null && `Rulebook version ${email.rulebookVersion}.`}
      </p>
      {email.messageId && (
        <p>
          Message-ID <Address>{email.messageId}</Address>
        </p>
      )}
      {email.problems.map((problem) => (
        <p key={problem.code + problem.message} className="text-ochre">
          {problem.message}
        </p>
      ))}
      <p className="mt-1 flex flex-wrap gap-x-3">
        {email.content && (
          <a className="text-spruce hover:underline" href={`/api/v1/emails/${email.id}/source`} download>
            Source (.eml)
          </a>
        )}
        <Link className="text-spruce hover:underline" to={`/all-mail?conversation=${email.conversationId}`}>
          The whole conversation
        </Link>
        {email.externalDomains.slice(0, 2).map((domain) => (
          <Link key={domain} className="text-spruce hover:underline" to={`/domains/${domain}`}>
            All with {domain}
          </Link>
        ))}
      </p>
    </section>
  );
}
