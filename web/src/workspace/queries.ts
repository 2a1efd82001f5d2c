import type { AuditQuery } from '@fulvet/contract';
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { call } from '../api/call';

export const useWorkspace = () => useQuery({ queryKey: ['workspace'], queryFn: ({ signal }) => call('getWorkspace', {}, signal) });

export const useRetention = () => useQuery({ queryKey: ['retention'], queryFn: ({ signal }) => call('getRetention', {}, signal) });

export const useErasures = () =>
  useQuery({
    queryKey: ['erasures'],
    queryFn: ({ signal }) => call('listErasures', {}, signal),
  });

export const useAudit = (query: Pick<AuditQuery, 'kind' | 'text' | 'from' | 'until'> & { member?: number }) =>
  useInfiniteQuery({
    queryKey: ['audit', query],
    queryFn: ({ pageParam, signal }) => call('listAudit', { ...query, after: pageParam }, signal),
    initialPageParam: '',
    getNextPageParam: (last) => last.next ?? undefined,
    placeholderData: keepPreviousData,
  });
