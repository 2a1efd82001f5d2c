import type { RecordKind, RulebookState, Trial } from '@fulvet/contract';
import type { Rulebook } from '@fulvet/core';
import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { setCsrf } from './client';
import { call } from './call';

const RUNNING = new Set(['open', 'queued', 'running']);

export function useSession() {
  return useQuery({
    queryKey: ['session'],
    queryFn: async ({ signal }) => {
      const session = await call('getSession', {}, signal);
      setCsrf(session.csrf);
      return session;
    },
    staleTime: 60_000,
  });
}

export const useLine = () =>
  useQuery({ queryKey: ['line'], queryFn: ({ signal }) => call('getLine', {}, signal), refetchInterval: 30_000 });

export const useArrival = () => useQuery({ queryKey: ['arrival'], queryFn: ({ signal }) => call('getArrival', {}, signal) });

export const useMailboxes = () => useQuery({ queryKey: ['mailboxes'], queryFn: ({ signal }) => call('listMailboxes', {}, signal) });

export const useTeams = () => useQuery({ queryKey: ['teams'], queryFn: ({ signal }) => call('listTeams', {}, signal) });

export const useTeam = () => useQuery({ queryKey: ['team'], queryFn: ({ signal }) => call('listTeam', {}, signal) });

export const useTokens = () => useQuery({ queryKey: ['tokens'], queryFn: ({ signal }) => call('listTokens', {}, signal) });

export const useUndoSteps = (enabled: boolean) =>
  useQuery({ queryKey: ['undo'], queryFn: ({ signal }) => call('listUndo', {}, signal), enabled });

export type LiveRulebook = Omit<RulebookState, 'document'> & { document: Rulebook };

/** A rulebook as the core knows it, which the API passes on as it is. */
export const useRulebook = () =>
  useQuery({ queryKey: ['rulebook'], queryFn: async ({ signal }) => (await call('getRulebook', {}, signal)) as LiveRulebook });

export type EmailFilter = Record<string, string>;

export function useEmails(filter: EmailFilter) {
  return useInfiniteQuery({
    queryKey: ['emails', filter],
    queryFn: ({ pageParam, signal }) => call('listEmails', { ...filter, after: pageParam, limit: 80 }, signal),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
}

export const useEmail = (id: number | null) =>
  useQuery({
    queryKey: ['email', id],
    queryFn: ({ signal }) => call('getEmail', { id: id ?? 0 }, signal),
    enabled: id !== null,
  });

export type RecordFilter = Record<string, string>;

export function useRecords(kind: RecordKind, filter: RecordFilter) {
  return useInfiniteQuery({
    queryKey: ['records', kind, filter],
    queryFn: ({ pageParam, signal }) => call('listRecords', { kind, ...filter, offset: pageParam, limit: 100 }, signal),
    initialPageParam: 0,
    getNextPageParam: (page, pages) => {
      const loaded = pages.reduce((sum, item) => sum + item.records.length, 0);
      return page.records.length > 0 && loaded < page.total ? loaded : null;
    },
    placeholderData: keepPreviousData,
  });
}

export const useRecord = (kind: RecordKind, id: number) =>
  useQuery({
    queryKey: ['record', kind, id],
    queryFn: ({ signal }) => call('getRecord', { kind, id }, signal),
  });

/** A history: of a record as `contact 3`, or of a domain as `domain harbour.example`. */
export interface HistorySource {
  kind: RecordKind | 'domain';
  id: number | string;
}

export function useHistory(source: HistorySource, filter: Record<string, string>) {
  return useInfiniteQuery({
    queryKey: ['history', source.kind, source.id, filter],
    queryFn: ({ pageParam, signal }) =>
      source.kind === 'domain'
        ? call('getDomainHistory', { domain: String(source.id), ...filter, after: pageParam }, signal)
        : call('getHistory', { kind: source.kind, id: Number(source.id), ...filter, after: pageParam }, signal),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
}

export const useInsights = (source: HistorySource) =>
  useQuery({
    queryKey: ['insights', source.kind, source.id],
    queryFn: ({ signal }) =>
      source.kind === 'domain'
        ? call('getDomainInsights', { domain: String(source.id) }, signal)
        : call('getInsights', { kind: source.kind, id: Number(source.id) }, signal),
  });

export const useRecordSetup = () =>
  useQuery({
    queryKey: ['record-setup'],
    queryFn: ({ signal }) => call('getRecordSetup', {}, signal),
    staleTime: 60_000,
  });

export const useRecordChanges = (kind: RecordKind, id: number, enabled: boolean) =>
  useQuery({
    queryKey: ['record-changes', kind, id],
    queryFn: ({ signal }) => call('recordChanges', { kind, id }, signal),
    enabled,
  });

export const useSearch = (text: string) =>
  useQuery({
    queryKey: ['search', text],
    queryFn: ({ signal }) => call('search', { text }, signal),
    enabled: text.trim().length > 1,
    placeholderData: keepPreviousData,
  });

export const useImports = (enabled = true) =>
  useQuery({
    queryKey: ['imports'],
    queryFn: ({ signal }) => call('listImports', {}, signal),
    refetchInterval: (query) => (query.state.data?.imports.some((run) => RUNNING.has(run.state) && run.state !== 'open') ? 500 : false),
    enabled,
  });

export const useImport = (id: number | null) =>
  useQuery({
    queryKey: ['import', id],
    queryFn: ({ signal }) => call('getImport', { id: id ?? 0 }, signal),
    enabled: id !== null,
    refetchInterval: (query) => (query.state.data && !RUNNING.has(query.state.data.state) ? false : 500),
  });

export const useImportItems = (id: number, filter: { result?: string; problems?: string }, live: boolean) =>
  useQuery({
    queryKey: ['import-items', id, filter],
    queryFn: ({ signal }) => call('listImportItems', { id, ...filter, limit: 500 }, signal),
    refetchInterval: live ? 2000 : false,
    placeholderData: keepPreviousData,
  });

/** Everything that mail and decisions show in is asked for again. */
export function useRefreshAll(): () => Promise<void> {
  const client = useQueryClient();
  return () => client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== 'session' });
}

export const isRunning = (trial: Trial): boolean => trial.state === 'queued' || trial.state === 'running';

export const useTrials = () =>
  useQuery({
    queryKey: ['trials'],
    queryFn: ({ signal }) => call('listTrials', {}, signal),
    refetchInterval: (query) => (query.state.data?.trials.some(isRunning) ? 500 : false),
  });
