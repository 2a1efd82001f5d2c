import { EmailCard } from '../emails/EmailCard';
import { useEmails } from '../api/queries';
import type { EmailFilter } from '../api/queries';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { common } from '../parts/words';

const SHOWN = 14;

/** The emails that a step decided last; each opens its decision. */
export function LastDecided({ title, filter }: { title: string; filter: EmailFilter }) {
  const emails = useEmails(filter);
  const decision = useDecisionPanel();
  const rows = emails.data?.pages[0]?.emails.slice(0, SHOWN) ?? [];
  return (
    <section aria-label={title}>
      <h2 className="mb-1 border-b border-line pb-1 text-lg">{title}</h2>
      {rows.length === 0 && !emails.isPending && <p className="text-muted">{common.noneYet}</p>}
      <ul>
        {rows.map((email) => (
          <li key={email.id}>
            <EmailCard email={email} active={email.id === decision.openId} onOpen={() => decision.open(email.id)} />
          </li>
        ))}
      </ul>
    </section>
  );
}
