import type { Invitation, SignedInSession } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { api } from '../api/client';

export const useInvitations = (enabled: boolean) =>
  useQuery({
    queryKey: ['invitations'],
    queryFn: ({ signal }) => api<{ invitations: Invitation[] }>('GET', '/invitations', undefined, signal),
    enabled,
  });

export const useSessions = () =>
  useQuery({
    queryKey: ['sessions'],
    queryFn: ({ signal }) => api<{ sessions: SignedInSession[] }>('GET', '/me/sessions', undefined, signal),
  });

export const useSecondFactor = () =>
  useQuery({
    queryKey: ['second-factor'],
    queryFn: ({ signal }) => api<{ on: boolean; recoveryCodes: number }>('GET', '/me/second-factor', undefined, signal),
  });
