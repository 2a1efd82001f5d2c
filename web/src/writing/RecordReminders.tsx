import type { RecordKind } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { Moment } from '../parts/Moment';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { common } from '../parts/words';
import { useEndReminder } from './useEndReminder';
import { reminders as words } from './words';

/** Emails to a record's people that the reader sent, and that no one answered in time. */
export function RecordReminders({ kind, id }: { kind: RecordKind; id: number }) {
  const found = useQuery(asked('listReminders', { record: `${kind}:${id}` }));
  const decision = useDecisionPanel();
  const end = useEndReminder();
  const list = found.data?.reminders ?? [];
  if (list.length === 0) return null;
  return (
    <section className="mb-3 border-l-2 border-ochre pl-2" aria-label={words.noOneAnswered}>
      <h2 className="text-ochre">{words.noOneAnswered}</h2>
      <ul>
        {list.map((item) => (
          <li key={item.id} className="flex flex-wrap items-baseline gap-x-2">
            <button type="button" className="min-w-0 grow truncate text-left hover:underline" onClick={() => decision.open(item.emailId)}>
              {item.subject || common.noSubject}
            </button>
            <Moment at={item.sentAt} className="tabular whitespace-nowrap text-muted" />
            <button type="button" className="text-spruce hover:underline" disabled={end.isPending} onClick={() => end.mutate(item.id)}>
              {words.endReminder}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
