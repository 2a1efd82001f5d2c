import type { RecordKind, RulebookState, Trial } from '@fulvet/contract';
import type { Rulebook } from '@fulvet/core';
import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { ALL_BUT_SESSION, asked, answerKey } from './asked';
import { unlessTold, whileRunning } from './listening';
import { setCsrf } from './client';
import { call } from './call';

export function useSession() {
  return useQuery({
    queryKey: answerKey('getSession'),
    queryFn: async ({ signal }) => {
      const session = await call('getSession', {}, signal);
      setCsrf(session.csrf);
      return session;
    },
    staleTime: 60_000,
  });
}

export const useLine = () => useQuery({ ...asked('getLine'), refetchInterval: () => unlessTold(30_000) });

export const useWorkspace = () => useQuery(asked('getWorkspace'));

export const useArrival = () => useQuery(asked('getArrival'));

export const useMailboxes = () => useQuery(asked('listMailboxes'));

export const useTeams = () => useQuery(asked('listTeams'));

export const useTeam = () => useQuery(asked('listTeam'));

export const useTokens = () => useQuery(asked('listTokens'));

export const useUndoSteps = (enabled: boolean) => useQuery({ ...asked('listUndo'), enabled });

export type LiveRulebook = Omit<RulebookState, 'document'> & { document: Rulebook };

/** A rulebook as the core knows it, which the API passes on as it is. */
export const useRulebook = () =>
  useQuery({ queryKey: answerKey('getRulebook'), queryFn: async ({ signal }) => (await call('getRulebook', {}, signal)) as LiveRulebook });

export type EmailFilter = Record<string, string>;

export function useEmails(filter: EmailFilter) {
  return useInfiniteQuery({
    queryKey: answerKey('listEmails', filter),
    queryFn: ({ pageParam, signal }) => call('listEmails', { ...filter, after: pageParam, limit: 80 }, signal),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
}

export const useEmail = (id: number | null) =>
  useQuery({
    ...asked('getEmail', { id: id ?? 0 }),
    enabled: id !== null,
  });

export type RecordFilter = Record<string, string>;

export function useRecords(kind: RecordKind, filter: RecordFilter) {
  return useInfiniteQuery({
    queryKey: answerKey('listRecords', { kind, ...filter }),
    queryFn: ({ pageParam, signal }) => call('listRecords', { kind, ...filter, offset: pageParam, limit: 100 }, signal),
    initialPageParam: 0,
    getNextPageParam: (page, pages) => {
      const loaded = pages.reduce((sum, item) => sum + item.records.length, 0);
      return page.records.length > 0 && loaded < page.total ? loaded : null;
    },
    placeholderData: keepPreviousData,
  });
}

export const useRecord = (kind: RecordKind, id: number) => useQuery(asked('getRecord', { kind, id }));

export const useRecordSetup = () =>
  useQuery({
    ...asked('getRecordSetup'),
    staleTime: 60_000,
  });

export const useRecordChanges = (kind: RecordKind, id: number, enabled: boolean) =>
  useQuery({
    ...asked('recordChanges', { kind, id }),
    enabled,
  });

export const useSearch = (text: string) =>
  useQuery({
    ...asked('search', { text }),
    enabled: text.trim().length > 1,
    placeholderData: keepPreviousData,
  });

/** Everything that mail and decisions show in is asked for again. */
export function useRefreshAll(): () => Promise<void> {
  const client = useQueryClient();
  return () => client.invalidateQueries(ALL_BUT_SESSION);
}

export const isRunning = (trial: Trial): boolean => trial.state === 'queued' || trial.state === 'running';

export const useTrials = () =>
  useQuery({
    ...asked('listTrials'),
    refetchInterval: (query) => (query.state.data?.trials.some(isRunning) ? whileRunning(500) : false),
  });
