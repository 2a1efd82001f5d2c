import type { Desk, LikelyRecord, Outsider, Repair, RepairRequest, RepairResult, RepairUndone } from '@fulvet/contract';
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { useOffer } from './useOffer';
import { api, queryOf } from '../api/client';
import { useRefreshAll } from '../api/queries';

export const useLikely = (emailId: number, text: string) =>
  useQuery({
    queryKey: ['likely', emailId, text],
    queryFn: ({ signal }) => api<{ records: LikelyRecord[] }>('GET', `/emails/${emailId}/likely${queryOf({ text })}`, undefined, signal),
    placeholderData: keepPreviousData,
  });

export const useOutsiders = (emails: readonly number[], enabled = true) =>
  useQuery({
    queryKey: ['outsiders', emails],
    queryFn: ({ signal }) => api<{ people: Outsider[] }>('GET', `/outsiders${queryOf({ emails: emails.join(',') })}`, undefined, signal),
    enabled: enabled && emails.length > 0,
  });

export const useRepairs = (emailId: number) =>
  useQuery({
    queryKey: ['repairs', emailId],
    queryFn: ({ signal }) => api<{ repairs: Repair[] }>('GET', `/repairs${queryOf({ email: emailId })}`, undefined, signal),
  });

export const useDesk = (whose: 'mine' | 'all', enabled = true) =>
  useQuery({
    queryKey: ['desk', whose],
    queryFn: ({ signal }) => api<Desk>('GET', `/desk${queryOf({ whose })}`, undefined, signal),
    placeholderData: keepPreviousData,
    enabled,
  });

/** Puts emails right by hand; says what was done, with a way back, and offers the rule that would do it. */
export function useRepair({ quietly = false }: { quietly?: boolean } = {}) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const offer = useOffer();
  const undo = useUndoRepair();
  return useMutation({
    mutationFn: (request: RepairRequest) => api<RepairResult>('POST', '/repairs', request),
    onSuccess: async (done) => {
      if (!quietly) await refresh();
      notice(`${done.summary}.`, { label: 'Undo', run: () => undo(done.id) });
      if (done.offer) offer(done.offer);
    },
  });
}

/** Takes a repair back and says what stays. */
export function useUndoRepair(): (id: number) => Promise<void> {
  const refresh = useRefreshAll();
  const notice = useNotice();
  return async (id) => {
    const undone = await api<RepairUndone>('POST', `/repairs/${id}/undo`);
    await refresh();
    const kept = undone.kept.map((item) => `${item.name} stays: ${item.because}.`);
    notice(`Taken back; ${counted(undone.changed, 'email stands', 'emails stand')} as before. ${kept.join(' ')}`.trim());
  };
}
