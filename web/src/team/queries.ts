import { useQuery } from '@tanstack/react-query';
import { call } from '../api/call';

export const useInvitations = (enabled: boolean) =>
  useQuery({
    queryKey: ['invitations'],
    queryFn: ({ signal }) => call('listInvitations', {}, signal),
    enabled,
  });

export const useSessions = () =>
  useQuery({
    queryKey: ['sessions'],
    queryFn: ({ signal }) => call('listSessions', {}, signal),
  });

export const useSecondFactor = () =>
  useQuery({
    queryKey: ['second-factor'],
    queryFn: ({ signal }) => call('getSecondFactor', {}, signal),
  });
