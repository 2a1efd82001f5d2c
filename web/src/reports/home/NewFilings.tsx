import { useEmails } from '../../api/queries';
import { EmailCard } from '../../emails/EmailCard';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { HomeList } from './Door';
import { newFilings as words } from './words';

const SHOWN = 6;

/** The last emails of the reader's mailboxes that were filed, with where. */
export default function NewFilings() {
  const decision = useDecisionPanel();
  const emails = useEmails({ mine: 'yes', outcome: 'filed' }).data?.pages[0]?.emails.slice(0, SHOWN) ?? [];
  if (emails.length === 0) return null;
  return (
    <HomeList title={words.filedLastFromYour}>
      {emails.map((email) => (
        <li key={email.id}>
          <EmailCard email={email} active={email.id === decision.openId} onOpen={() => decision.open(email.id)} />
        </li>
      ))}
    </HomeList>
  );
}
