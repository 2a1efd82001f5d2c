import type { RecordSetup } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { answerKey } from '../api/asked';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';

/** What is done with the answer of any of the forms. */
export function useSavedSetup(said: string) {
  const client = useQueryClient();
  const refresh = useRefreshAll();
  const notice = useNotice();
  return async (setup: RecordSetup): Promise<void> => {
    client.setQueryData(answerKey('getRecordSetup'), setup);
    await refresh();
    notice(said);
  };
}
