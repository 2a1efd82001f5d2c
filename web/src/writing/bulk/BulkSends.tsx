import type { BulkSend } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answersOf, asked } from '../../api/asked';
import { call } from '../../api/call';
import { Button } from '../../parts/basics';
import { Moment } from '../../parts/Moment';
import { useNotice } from '../../parts/Notices';
import { bulkSends as words } from './words';

/** Emails to many that the reader sends or has sent, each with how far it is. */
export function BulkSends() {
  const sends = useQuery(asked('listBulk')).data?.sends ?? [];
  if (sends.length === 0) return null;
  return (
    <section aria-label={words.title} className="mb-4">
      <h2 className="mb-1 text-lg">{words.title}</h2>
      <ul className="divide-y divide-line border-y border-line">
        {sends.map((send) => (
          <li key={send.id} className="flex flex-wrap items-center gap-x-4 gap-y-1 px-1 py-1.5">
            <span className="min-w-0 grow truncate font-medium">{send.name}</span>
            <span className="tabular text-sm text-muted">
              {[words.progress(send.sent, send.total), send.stopped > 0 && words.stopped(send.stopped), send.isStopped && words.isStopped]
                .filter(Boolean)
                .join(' · ')}
            </span>
            <Moment at={send.createdAt} className="tabular text-sm text-muted" />
            {send.waiting > 0 && <StopSend send={send} />}
          </li>
        ))}
      </ul>
    </section>
  );
}

function StopSend({ send: { id, name } }: { send: BulkSend }) {
  const client = useQueryClient();
  const notice = useNotice();
  const stop = useMutation({
    mutationFn: () => call('stopBulk', { id }),
    onSuccess: async () => {
      await client.invalidateQueries(answersOf('listBulk', 'listSeriesRuns', 'listOutgoing'));
      notice(words.stoppedNow(name));
    },
    onError: (error) => notice(error.message),
  });
  return (
    <Button aria-label={words.stopSend(name)} disabled={stop.isPending} onClick={() => stop.mutate()}>
      {words.stop}
    </Button>
  );
}
