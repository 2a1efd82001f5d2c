import type { Arrival } from '@fulvet/contract';
import { Button } from '../../parts/basics';
import { Moment } from '../../parts/Moment';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { common } from '../../parts/words';
import { EmailDoor, HomeList } from './Door';
import { useEndReminder } from '../../writing/useEndReminder';
import { reminders as words } from '../../writing/words';

/** Emails that the reader sent and that no one answered in time. */
export default function Reminders({ items }: { items: Arrival['reminders'] }) {
  const decision = useDecisionPanel();
  const end = useEndReminder();
  return (
    <HomeList title={words.noOneAnswered}>
      {items.map((item) => (
        <li key={item.id} className="flex items-center gap-2">
          <EmailDoor
            title={item.to.join(', ')}
            aside={<Moment at={item.sentAt} />}
            line={item.subject || common.noSubject}
            onOpen={() => decision.open(item.emailId)}
          />
          <Button kind="quiet" disabled={end.isPending} onClick={() => end.mutate(item.id)}>
            {words.endReminder}
          </Button>
        </li>
      ))}
    </HomeList>
  );
}
