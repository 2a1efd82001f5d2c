import type { SeriesRun } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { call } from '../../api/call';
import { useNotice } from '../../parts/Notices';
import { SERIES_ANSWERS } from './queries';
import { runList as words } from './words';

export const whoOf = ({ to }: Pick<SeriesRun, 'to'>): string => to.name || to.address;

/** What can be done about a series with someone. */
export function useRunActs(run: SeriesRun): { stop: () => void; goOn: () => void; pending: boolean } {
  const client = useQueryClient();
  const notice = useNotice();
  const act = useMutation({
    mutationFn: (does: 'stopSeriesRun' | 'goOnWithSeriesRun') => call(does, { id: run.id }),
    onSuccess: async (_, does) => {
      await client.invalidateQueries(SERIES_ANSWERS);
      if (does === 'stopSeriesRun') notice(words.stopped(whoOf(run)));
    },
    onError: (error) => notice(error.message),
  });
  return { stop: () => act.mutate('stopSeriesRun'), goOn: () => act.mutate('goOnWithSeriesRun'), pending: act.isPending };
}
