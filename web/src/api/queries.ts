import type {
  AccessToken,
  Arrival,
  EmailDetail,
  EmailPage,
  HistoryPage,
  ImportItem,
  ImportRun,
  Insights,
  LineCounts,
  Mailbox,
  RecordChange,
  RecordDetail,
  RecordKind,
  RecordPage,
  RecordSetup,
  RulebookState,
  SearchResult,
  Session,
  Team,
  TeamMember,
  Trial,
  UndoStep,
} from '@fulvet/contract';
import type { Rulebook } from '@fulvet/core';
import { keepPreviousData, useInfiniteQuery, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, queryOf, setCsrf } from './client';

const RUNNING = new Set(['open', 'queued', 'running']);

export function useSession() {
  return useQuery({
    queryKey: ['session'],
    queryFn: async ({ signal }) => {
      const session = await api<Session>('GET', '/session', undefined, signal);
      setCsrf(session.csrf);
      return session;
    },
    staleTime: 60_000,
  });
}

export const useLine = () =>
  useQuery({ queryKey: ['line'], queryFn: ({ signal }) => api<LineCounts>('GET', '/line', undefined, signal), refetchInterval: 30_000 });

export const useArrival = () =>
  useQuery({ queryKey: ['arrival'], queryFn: ({ signal }) => api<Arrival>('GET', '/arrival', undefined, signal) });

export const useMailboxes = () =>
  useQuery({ queryKey: ['mailboxes'], queryFn: ({ signal }) => api<{ mailboxes: Mailbox[] }>('GET', '/mailboxes', undefined, signal) });

export const useTeams = () =>
  useQuery({ queryKey: ['teams'], queryFn: ({ signal }) => api<{ teams: Team[] }>('GET', '/teams', undefined, signal) });

export const useTeam = () =>
  useQuery({ queryKey: ['team'], queryFn: ({ signal }) => api<{ members: TeamMember[] }>('GET', '/team', undefined, signal) });

export const useTokens = () =>
  useQuery({ queryKey: ['tokens'], queryFn: ({ signal }) => api<{ tokens: AccessToken[] }>('GET', '/me/tokens', undefined, signal) });

export const useUndoSteps = (enabled: boolean) =>
  useQuery({ queryKey: ['undo'], queryFn: ({ signal }) => api<{ steps: UndoStep[] }>('GET', '/undo', undefined, signal), enabled });

export type LiveRulebook = Omit<RulebookState, 'document'> & { document: Rulebook };

export const useRulebook = () =>
  useQuery({ queryKey: ['rulebook'], queryFn: ({ signal }) => api<LiveRulebook>('GET', '/rulebook', undefined, signal) });

export type EmailFilter = Record<string, string>;

export function useEmails(filter: EmailFilter) {
  return useInfiniteQuery({
    queryKey: ['emails', filter],
    queryFn: ({ pageParam, signal }) =>
      api<EmailPage>('GET', `/emails${queryOf({ ...filter, after: pageParam, limit: 80 })}`, undefined, signal),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
}

export const useEmail = (id: number | null) =>
  useQuery({
    queryKey: ['email', id],
    queryFn: ({ signal }) => api<EmailDetail>('GET', `/emails/${String(id)}`, undefined, signal),
    enabled: id !== null,
  });

export type RecordFilter = Record<string, string>;

export function useRecords(kind: RecordKind, filter: RecordFilter) {
  return useInfiniteQuery({
    queryKey: ['records', kind, filter],
    queryFn: ({ pageParam, signal }) =>
      api<RecordPage>('GET', `/records/${kind}${queryOf({ ...filter, offset: pageParam, limit: 100 })}`, undefined, signal),
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
    queryFn: ({ signal }) => api<RecordDetail>('GET', `/records/${kind}/${id}`, undefined, signal),
  });

/** A history: of a record as `contact 3`, or of a domain as `domain harbour.example`. */
export interface HistorySource {
  kind: RecordKind | 'domain';
  id: number | string;
}

export const historyPath = ({ kind, id }: HistorySource): string =>
  kind === 'domain' ? `/domains/${encodeURIComponent(id)}` : `/records/${kind}/${id}`;

export function useHistory(source: HistorySource, filter: Record<string, string>) {
  return useInfiniteQuery({
    queryKey: ['history', source.kind, source.id, filter],
    queryFn: ({ pageParam, signal }) =>
      api<HistoryPage>('GET', `${historyPath(source)}/history${queryOf({ ...filter, after: pageParam })}`, undefined, signal),
    initialPageParam: '',
    getNextPageParam: (page) => page.next,
    placeholderData: keepPreviousData,
  });
}

export const useInsights = (source: HistorySource) =>
  useQuery({
    queryKey: ['insights', source.kind, source.id],
    queryFn: ({ signal }) => api<Insights>('GET', `${historyPath(source)}/insights`, undefined, signal),
  });

export const useRecordSetup = () =>
  useQuery({
    queryKey: ['record-setup'],
    queryFn: ({ signal }) => api<RecordSetup>('GET', '/record-setup', undefined, signal),
    staleTime: 60_000,
  });

export const useRecordChanges = (kind: RecordKind, id: number, enabled: boolean) =>
  useQuery({
    queryKey: ['record-changes', kind, id],
    queryFn: ({ signal }) => api<{ changes: RecordChange[] }>('GET', `/records/${kind}/${id}/changes`, undefined, signal),
    enabled,
  });

export const useSearch = (text: string) =>
  useQuery({
    queryKey: ['search', text],
    queryFn: ({ signal }) => api<SearchResult>('GET', `/search${queryOf({ text })}`, undefined, signal),
    enabled: text.trim().length > 1,
    placeholderData: keepPreviousData,
  });

export const useImports = (enabled = true) =>
  useQuery({
    queryKey: ['imports'],
    queryFn: ({ signal }) => api<{ imports: ImportRun[] }>('GET', '/imports', undefined, signal),
    refetchInterval: (query) => (query.state.data?.imports.some((run) => RUNNING.has(run.state) && run.state !== 'open') ? 500 : false),
    enabled,
  });

export const useImport = (id: number | null) =>
  useQuery({
    queryKey: ['import', id],
    queryFn: ({ signal }) => api<ImportRun>('GET', `/imports/${String(id)}`, undefined, signal),
    enabled: id !== null,
    refetchInterval: (query) => (query.state.data && !RUNNING.has(query.state.data.state) ? false : 500),
  });

export const useImportItems = (id: number, filter: { result?: string; problems?: string }, live: boolean) =>
  useQuery({
    queryKey: ['import-items', id, filter],
    queryFn: ({ signal }) =>
      api<{ items: ImportItem[]; total: number }>('GET', `/imports/${id}/items${queryOf({ ...filter, limit: 500 })}`, undefined, signal),
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
    queryFn: ({ signal }) => api<{ trials: Trial[] }>('GET', '/trials', undefined, signal),
    refetchInterval: (query) => (query.state.data?.trials.some(isRunning) ? 500 : false),
  });
