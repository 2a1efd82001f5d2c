import type { AuditPage, AuditQuery, Erasure, RetentionRule, Workspace } from '@fulvet/contract';
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { api, queryOf } from '../api/client';

export const useWorkspace = () =>
  useQuery({ queryKey: ['workspace'], queryFn: ({ signal }) => api<Workspace>('GET', '/workspace', undefined, signal) });

export const useRetention = () =>
  useQuery({ queryKey: ['retention'], queryFn: ({ signal }) => api<{ rules: RetentionRule[] }>('GET', '/retention', undefined, signal) });

export const useErasures = () =>
  useQuery({
    queryKey: ['erasures'],
    queryFn: ({ signal }) => api<{ erasures: Erasure[] }>('GET', '/privacy/erasures', undefined, signal),
  });

export const useAudit = (query: Pick<AuditQuery, 'kind' | 'text' | 'from' | 'until'> & { member?: number }) =>
  useInfiniteQuery({
    queryKey: ['audit', query],
    queryFn: ({ pageParam, signal }) => api<AuditPage>('GET', `/audit${queryOf({ ...query, after: pageParam })}`, undefined, signal),
    initialPageParam: '',
    getNextPageParam: (last) => last.next ?? undefined,
    placeholderData: keepPreviousData,
  });
