import type { RecordKind } from '@fulvet/contract';
import { keepPreviousData, useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { call } from '../api/call';

/** A history: of a record as `contact 3`, or of a domain as `domain harbour.example`. */
export interface HistorySource {
  kind: RecordKind | 'domain';
  id: number | string;
}

/** The key of what is asked of a record or of a domain. */
const ofSource = (
  ofRecord: 'getHistory' | 'getInsights',
  ofDomain: 'getDomainHistory' | 'getDomainInsights',
  { kind, id }: HistorySource,
  filter: Record<string, string> = {},
): readonly unknown[] =>
  kind === 'domain' ? [ofDomain, { domain: String(id), ...filter }] : [ofRecord, { kind, id: Number(id), ...filter }];

export function useHistory(source: HistorySource, filter: Record<string, string>) {
  return useInfiniteQuery({
    queryKey: ofSource('getHistory', 'getDomainHistory', source, filter),
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
    queryKey: ofSource('getInsights', 'getDomainInsights', source),
    queryFn: ({ signal }) =>
      source.kind === 'domain'
        ? call('getDomainInsights', { domain: String(source.id) }, signal)
        : call('getInsights', { kind: source.kind, id: Number(source.id) }, signal),
  });
