import type { RecordKind, RepairRequest } from '@fulvet/contract';
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useNotice } from '../parts/Notices';
import { useOffer } from './useOffer';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { common } from '../parts/words';
import { queries as words } from './words';

export const useLikely = (emailId: number, text: string) =>
  useQuery({
    ...asked('likelyRecords', { id: emailId, text }),
    placeholderData: keepPreviousData,
  });

export const useOutsiders = (emails: readonly number[], enabled = true) =>
  useQuery({
    ...asked('outsiders', { emails: emails.join(',') }),
    enabled: enabled && emails.length > 0,
  });

export const useEachProposal = (emails: readonly number[], query: { per: 'person' | 'company'; kind: RecordKind; of?: string }) =>
  useQuery({
    ...asked('proposeEach', { emails: emails.join(','), ...query }),
    // What is being edited does not change under the hand.
    staleTime: Infinity,
  });

export const useRepairs = (emailId: number) => useQuery(asked('listRepairs', { email: emailId }));

export const useDesk = (whose: 'mine' | 'all') => useQuery({ ...asked('getDesk', { whose }), placeholderData: keepPreviousData });

/** Puts emails right by hand; says what was done, with a way back, and offers the rule that would do it. */
export function useRepair({ quietly = false }: { quietly?: boolean } = {}) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const offer = useOffer();
  const undo = useUndoRepair();
  return useMutation({
    mutationFn: (request: RepairRequest) => call('repair', { body: request }),
    onSuccess: async (done) => {
      if (!quietly) await refresh();
      notice(`${done.summary}.`, { label: common.undo, run: () => undo(done.id) });
      if (done.offer) offer(done.offer);
    },
  });
}

/** Takes a repair back and says what stays. */
export function useUndoRepair(): (id: number) => Promise<void> {
  const refresh = useRefreshAll();
  const notice = useNotice();
  return async (id) => {
    const undone = await call('undoRepair', { id });
    await refresh();
    const kept = undone.kept.map((item) => words.stays(item.name, item.because));
    notice(words.undoneEmailsAreAs(undone.changed, kept.join(' ')).trim());
  };
}
