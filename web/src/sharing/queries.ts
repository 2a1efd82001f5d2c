import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { unlessTold } from '../api/listening';

export const useSharingChoices = (email?: number) => useQuery(asked('listSharingChoices', { email }));

export const useRequests = () =>
  useQuery({
    ...asked('listAccessRequests'),
    refetchInterval: () => unlessTold(60_000),
  });

export const useGrants = () => useQuery(asked('listGrants'));

export const useEyes = (email: number, enabled: boolean) => useQuery({ ...asked('getEyes', { id: email }), enabled });

export const useEmergencies = () => useQuery(asked('listEmergencies'));

export const useSight = (member: number | null, mailbox: number | null) =>
  useQuery({
    ...asked('getSight', { id: member ?? 0, mailbox }),
    enabled: member !== null && mailbox !== null,
  });
