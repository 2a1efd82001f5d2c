import type { MailboxDetail } from '@fulvet/contract';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import { answersOf, asked, askedFor, answerKey } from '../api/asked';
import { unlessTold, whileRunning } from '../api/listening';

const CHECKING_MS = 700;

/** One mailbox with all about it; asked for again while it is being tried. */
export const useMailbox = (id: number | null) =>
  useQuery({
    ...asked('getMailbox', { id: id ?? 0 }),
    enabled: id !== null,
    refetchInterval: (query) => (query.state.data && isBeingTried(query.state.data) ? whileRunning(CHECKING_MS) : unlessTold(15_000)),
  });

/** The checks go on: one is running, or some have passed and the next waits without a failure. */
export function isBeingTried({ checks }: Pick<MailboxDetail, 'checks'>): boolean {
  if (checks.some((check) => check.state === 'running')) return true;
  const passed = checks.filter((check) => check.state === 'passed').length;
  return passed > 0 && passed < checks.length && !checks.some((check) => check.state === 'failed');
}

export const usePresets = () =>
  useQuery({
    ...asked('listPresets'),
    staleTime: 600_000,
  });

/** The mail servers of an address, as far as they can be found. */
export const useServers = (address: string, enabled: boolean) =>
  useQuery({
    ...asked('findServers', { body: { address } }),
    enabled,
    staleTime: 60_000,
  });

export const useLookBack = (id: number, enabled: boolean, followed: string) =>
  useQuery({
    ...askedFor([followed], 'getLookBack', { id }),
    enabled,
    staleTime: 60_000,
    retry: false,
  });

export const useMailboxEvents = (id: number, limit: number) => useQuery(asked('listMailboxEvents', { id, limit }));

/** Puts what the server answered about a mailbox in place at once, and has the lists asked for again. */
export function useTakeMailbox(): (mailbox: MailboxDetail) => void {
  const client = useQueryClient();
  return (mailbox) => {
    client.setQueryData(answerKey('getMailbox', { id: mailbox.id }), mailbox);
    void client.invalidateQueries(answersOf('listMailboxes', 'getLine', 'listMailboxEvents'));
  };
}

const RUNNING = new Set(['open', 'queued', 'running']);

export const useImports = (enabled = true) =>
  useQuery({
    ...asked('listImports'),
    refetchInterval: (query) =>
      query.state.data?.imports.some((run) => RUNNING.has(run.state) && run.state !== 'open') ? whileRunning(500) : false,
    enabled,
  });

export const useImport = (id: number | null) =>
  useQuery({
    ...asked('getImport', { id: id ?? 0 }),
    enabled: id !== null,
    refetchInterval: (query) => (query.state.data && !RUNNING.has(query.state.data.state) ? false : whileRunning(500)),
  });

export const useImportItems = (id: number, filter: { result?: string; problems?: string }, live: boolean) =>
  useQuery({
    ...asked('listImportItems', { id, ...filter, limit: 500 }),
    refetchInterval: () => live && whileRunning(2000),
    placeholderData: keepPreviousData,
  });
