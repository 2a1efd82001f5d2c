import type { MailboxDetail } from '@fulvet/contract';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { call } from '../api/call';

const CHECKING_MS = 700;

/** One mailbox with all about it; asked for again while it is being tried. */
export const useMailbox = (id: number | null) =>
  useQuery({
    queryKey: ['mailbox', id],
    queryFn: ({ signal }) => call('getMailbox', { id: id ?? 0 }, signal),
    enabled: id !== null,
    refetchInterval: (query) => (query.state.data && isBeingTried(query.state.data) ? CHECKING_MS : 15_000),
  });

/** The checks go on: one is running, or some have passed and the next waits without a failure. */
export function isBeingTried({ checks }: Pick<MailboxDetail, 'checks'>): boolean {
  if (checks.some((check) => check.state === 'running')) return true;
  const passed = checks.filter((check) => check.state === 'passed').length;
  return passed > 0 && passed < checks.length && !checks.some((check) => check.state === 'failed');
}

export const usePresets = () =>
  useQuery({
    queryKey: ['presets'],
    queryFn: ({ signal }) => call('listPresets', {}, signal),
    staleTime: 600_000,
  });

/** The mail servers of an address, as far as they can be found. */
export const useServers = (address: string, enabled: boolean) =>
  useQuery({
    queryKey: ['servers', address],
    queryFn: ({ signal }) => call('findServers', { body: { address } }, signal),
    enabled,
    staleTime: 60_000,
  });

export const useLookBack = (id: number, enabled: boolean, followed: string) =>
  useQuery({
    queryKey: ['look-back', id, followed],
    queryFn: ({ signal }) => call('getLookBack', { id }, signal),
    enabled,
    staleTime: 60_000,
    retry: false,
  });

export const useMailboxEvents = (id: number, limit: number) =>
  useQuery({
    queryKey: ['mailbox', id, 'events', limit],
    queryFn: ({ signal }) => call('listMailboxEvents', { id, limit }, signal),
  });

/** Puts what the server answered about a mailbox in place at once, and has the lists asked for again. */
export function useTakeMailbox(): (mailbox: MailboxDetail) => void {
  const client = useQueryClient();
  return (mailbox) => {
    client.setQueryData(['mailbox', mailbox.id], mailbox);
    for (const key of [['mailboxes'], ['line'], ['mailbox', mailbox.id, 'events']]) void client.invalidateQueries({ queryKey: key });
  };
}
