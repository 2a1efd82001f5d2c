import type { Arrival } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { call } from '../../api/call';
import { useRefreshAll } from '../../api/queries';
import { Button } from '../../parts/basics';
import { Moment } from '../../parts/Moment';
import { useNotice } from '../../parts/Notices';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { common } from '../../parts/words';
import { HomeList } from './Door';
import { reminders as words } from './words';

/** Emails that the reader sent and that no one answered in time. */
export default function Reminders({ items }: { items: Arrival['reminders'] }) {
  const decision = useDecisionPanel();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const end = useMutation({
    mutationFn: (id: number) => call('endReminder', { id }),
    onSuccess: () => refresh(),
    onError: (error) => notice(error.message),
  });
  return (
    <HomeList title={words.noOneAnswered}>
      {items.map((item) => (
        <li key={item.id} className="flex items-center gap-2">
          <button
            type="button"
            className="block min-w-0 grow px-1 py-1.5 text-left hover:bg-sunk"
            onClick={() => decision.open(item.emailId)}
          >
            <span className="flex gap-2">
              <span className="truncate font-medium">{item.to.join(', ')}</span>
              <Moment at={item.sentAt} className="tabular ml-auto text-sm whitespace-nowrap text-muted" />
            </span>
            <span className="block truncate text-muted">{item.subject || common.noSubject}</span>
          </button>
          <Button kind="quiet" disabled={end.isPending} onClick={() => end.mutate(item.id)}>
            {words.endReminder}
          </Button>
        </li>
      ))}
    </HomeList>
  );
}
