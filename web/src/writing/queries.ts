import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { unlessTold } from '../api/listening';

export const useOutgoing = (id: number) => useQuery(asked('getOutgoing', { id }));

/** What is sent is told by events; the seconds before are not. */
export const useOutgoingList = () =>
  useQuery({
    ...asked('listOutgoing'),
    refetchInterval: ({ state }) =>
      state.data?.emails.some(({ state: stage }) => stage === 'due' || stage === 'handing over') ? 2000 : unlessTold(30_000),
  });

export const useSenders = () => useQuery({ ...asked('listSenders'), staleTime: 60_000 });

/** @param beside addresses that the email goes to already */
export const useRecipients = (text: string, record: string | undefined, beside: readonly string[], enabled: boolean) =>
  useQuery({
    ...asked('findRecipients', {
      text,
      ...(record === undefined ? {} : { record }),
      ...(beside.length === 0 ? {} : { with: beside.join(',') }),
    }),
    enabled,
  });

/** How a draft will be filed; asked for again after each save. */
export const useOutgoingPreview = (id: number, revision: number) =>
  useQuery({
    ...asked('previewOutgoing', { id }),
    queryKey: ['previewOutgoing', { id, revision }],
    placeholderData: (previous) => previous,
  });
