import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';

export const useInvitations = (enabled: boolean) =>
  useQuery({
    ...asked('listInvitations'),
    enabled,
  });

export const useSessions = () => useQuery(asked('listSessions'));

export const useSecondFactor = () => useQuery(asked('getSecondFactor'));
