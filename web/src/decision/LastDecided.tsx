import { EmailLine } from '../emails/EmailLine';
import { useEmails } from '../api/queries';
import type { EmailFilter } from '../api/queries';
import { useDocket } from '../parts/useDocket';

/** The emails that a stop decided last; each opens its decision. */
export function LastDecided({ title, filter }: { title: string; filter: EmailFilter }) {
  const emails = useEmails(filter);
  const docket = useDocket();
  const rows = emails.data?.pages[0]?.emails.slice(0, 14) ?? [];
  return (
    <section aria-label={title}>
      <h2 className="mb-1 text-lg">{title}</h2>
      {rows.length === 0 && !emails.isPending && <p className="text-muted">None yet.</p>}
      <ul>
        {rows.map((email) => (
          <li
            key={email.id}
            className="h-9"
            tabIndex={0}
            aria-label={`Decision on ${email.content?.subject ?? `an email with ${email.externalDomains.join(', ')}`}`}
            onKeyDown={(event) => event.key === 'Enter' && event.target === event.currentTarget && docket.open(email.id)}
          >
            <EmailLine email={email} active={email.id === docket.openId} onOpen={() => docket.open(email.id)} />
          </li>
        ))}
      </ul>
    </section>
  );
}
