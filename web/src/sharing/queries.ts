import type { AccessRequest, Emergency, Eyes, Grant, MemberSight, OwnWord } from '@fulvet/contract';
import { useMutation, useQuery } from '@tanstack/react-query';
import { api, queryOf } from '../api/client';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';

type Level = NonNullable<OwnWord['level']>;

export const useWords = (email?: number) =>
  useQuery({
    queryKey: ['words', email ?? 0],
    queryFn: ({ signal }) => api<{ words: OwnWord[]; widest: Level }>('GET', `/my-mail/words${queryOf({ email })}`, undefined, signal),
  });

export const useRequests = () =>
  useQuery({
    queryKey: ['access-requests'],
    queryFn: ({ signal }) => api<{ toMe: AccessRequest[]; mine: AccessRequest[] }>('GET', '/access/requests', undefined, signal),
    refetchInterval: 60_000,
  });

export const useGrants = () =>
  useQuery({
    queryKey: ['grants'],
    queryFn: ({ signal }) => api<{ given: Grant[]; received: Grant[] }>('GET', '/access/grants', undefined, signal),
  });

export const useEyes = (email: number, enabled: boolean) =>
  useQuery({ queryKey: ['eyes', email], queryFn: ({ signal }) => api<Eyes>('GET', `/emails/${email}/eyes`, undefined, signal), enabled });

export const useEmergencies = () =>
  useQuery({
    queryKey: ['emergencies'],
    queryFn: ({ signal }) => api<{ emergencies: Emergency[] }>('GET', '/emergencies', undefined, signal),
  });

export const useSight = (member: number | null, mailbox: number | null) =>
  useQuery({
    queryKey: ['sight', member, mailbox],
    queryFn: ({ signal }) => api<MemberSight>('GET', `/team/${member ?? 0}/sight${queryOf({ mailbox })}`, undefined, signal),
    enabled: member !== null && mailbox !== null,
  });

/** Something that changes who sees what: said in a notice, and everything shown is asked for again. */
export function useSharing<T>(call: (input: T) => Promise<unknown>, said: (input: T) => string) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  return useMutation({
    mutationFn: call,
    onSuccess: async (_, input) => {
      await refresh();
      notice(said(input));
    },
  });
}

/** Takes back what an owner said of emails of theirs. */
export const useTakeBackWord = () =>
  useSharing(
    (id: number) => api('DELETE', `/my-mail/words/${id}`),
    () => 'Taken back. It is seen by the rules again.',
  );

/** Withdraws a request to read. */
export const useWithdrawRequest = () =>
  useSharing(
    (id: number) => api('DELETE', `/access/requests/${id}`),
    () => 'Your request is withdrawn.',
  );
