import type { AuditQuery } from '@fulvet/contract';
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { asked, answerKey } from '../api/asked';
import { call } from '../api/call';

export const useRetention = () => useQuery(asked('getRetention'));

export const useErasures = () => useQuery(asked('listErasures'));

export const useAudit = (query: Pick<AuditQuery, 'kind' | 'text' | 'from' | 'until'> & { member?: number }) =>
  useInfiniteQuery({
    queryKey: answerKey('listAudit', query),
    queryFn: ({ pageParam, signal }) => call('listAudit', { ...query, after: pageParam }, signal),
    initialPageParam: '',
    getNextPageParam: (last) => last.next ?? undefined,
    placeholderData: keepPreviousData,
  });
