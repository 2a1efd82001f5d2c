import type { DecideRun } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answersOf, asked } from '../api/asked';
import { whileRunning } from '../api/listening';
import { useEffect, useRef } from 'react';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';
import { usePastRuns as words } from './words';

export type PastRun = DecideRun & { at: string; by: string | null; undoable: boolean };

/** What a run changed. */
export const changedWords = ({ changed, takenBack }: Pick<DecideRun, 'changed' | 'takenBack'>): string =>
  words.emailChanged(changed, takenBack > 0 ? words.recordRemoved(takenBack) : '');

/** Which past mail. */
export interface PastSpan {
  days: number | null;
  mailboxes: string[];
}

/** What a run does: which mail, and whether records that mail created go that the rulebook would not create. */
export interface PastAsk extends PastSpan {
  withoutMade: boolean;
}

const isRunning = (run: PastRun): boolean => run.state === 'queued' || run.state === 'running';

/** The runs over past mail, the one that is at work among them, whoever started it; and the way to start one. */
export function usePastRuns() {
  const client = useQueryClient();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const runs = useQuery({
    ...asked('listDecideRuns'),
    refetchInterval: (query) => (query.state.data?.runs.some(isRunning) ? whileRunning(400) : false),
  });
  const start = useMutation({
    mutationFn: (ask: PastAsk) => call('decide', { body: ask }),
    onSuccess: () => client.invalidateQueries(answersOf('listDecideRuns')),
  });
  const all = runs.data?.runs ?? [];
  const running = all.find(isRunning) ?? null;
  const known = useRef<ReadonlySet<number> | null>(null);
  useEffect(() => {
    if (!runs.data) return;
    const ended = runs.data.runs.filter((run) => !isRunning(run));
    const news = known.current === null ? [] : ended.filter((run) => !known.current?.has(run.id));
    known.current = new Set(ended.map((run) => run.id));
    for (const run of news) notice(run.state === 'done' ? words.pastMailWasDecided(changedWords(run)) : run.message);
    if (news.length > 0) void refresh();
  }, [runs.data, notice, refresh]);
  const cancel = (): void => {
    if (running)
      call('cancelDecideRun', { id: running.id }).catch((error: unknown) =>
        notice(error instanceof Error ? error.message : words.itWasNotCancelled),
      );
  };
  return { runs: all, running, start, cancel };
}

/** How many past emails a run would decide again. */
export function useCountPast(span: PastSpan, enabled: boolean): number | undefined {
  const counting = useQuery({
    ...asked('countPast', { body: span }),
    enabled,
  });
  return enabled ? counting.data?.emails : undefined;
}
