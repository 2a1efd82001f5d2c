import { useQueryClient } from '@tanstack/react-query';
import type { QueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';

/** What the server tells open pages; never what an email says. */
type Told = { kind: 'mail'; records: string[] } | { kind: 'mailbox'; id: number };

/** What summarises all mail is asked for again at most so often. */
const SUMMARY_MS = 2000;
const SUMMARIES = ['line', 'arrival', 'emails', 'records', 'search', 'mailboxes', 'desk', 'my-mail'];

/**
 * Keeps what is shown up to date by the server's events, without reloading. Only a page that is seen listens: browsers allow few
 * connections to one server, and every tab would hold one.
 */
export function useLiveChanges(): void {
  const client = useQueryClient();
  useEffect(() => {
    let source: EventSource | null = null;
    let missed = false;
    const summary = atMostEvery(SUMMARY_MS, () => {
      for (const key of SUMMARIES) void client.invalidateQueries({ queryKey: [key] });
    });
    const stop = (): void => {
      if (source) missed = true;
      source?.close();
      source = null;
    };
    const listen = (): void => {
      if (source || document.visibilityState === 'hidden') return;
      source = new EventSource('/api/v1/changes');
      source.onerror = () => (missed = true);
      source.onopen = () => {
        // While no one listened anything may have changed.
        if (missed) void client.invalidateQueries({ predicate: (query) => query.queryKey[0] !== 'session' });
        missed = false;
      };
      source.onmessage = (event: MessageEvent<string>) => {
        const told = JSON.parse(event.data) as Told;
        if (told.kind === 'mailbox') void client.invalidateQueries({ queryKey: ['mailbox', told.id] });
        else showMail(client, told.records);
        summary.run();
      };
    };
    const seenOrNot = (): void => (document.visibilityState === 'hidden' ? stop() : listen());
    listen();
    document.addEventListener('visibilitychange', seenOrNot);
    window.addEventListener('pagehide', stop);
    window.addEventListener('pageshow', listen);
    return () => {
      document.removeEventListener('visibilitychange', seenOrNot);
      window.removeEventListener('pagehide', stop);
      window.removeEventListener('pageshow', listen);
      stop();
      summary.stop();
    };
  }, [client]);
}

/** Histories of the records that are named change at once; an empty list stands for any. */
function showMail(client: QueryClient, records: readonly string[]): void {
  void client.invalidateQueries({
    predicate: ({ queryKey: [name, kind, id] }) =>
      (name === 'history' || name === 'record' || name === 'insights') &&
      (records.length === 0 || records.includes(`${String(kind)}:${String(id)}`)),
  });
}

/** Runs at once, and then once more at the end of the time if it was asked for meanwhile. */
function atMostEvery(ms: number, work: () => void): { run: () => void; stop: () => void } {
  let timer: number | null = null;
  let again = false;
  const run = (): void => {
    if (timer !== null) {
      again = true;
      return;
    }
    work();
    timer = window.setTimeout(() => {
      timer = null;
      if (!again) return;
      again = false;
      run();
    }, ms);
  };
  return { run, stop: () => timer !== null && window.clearTimeout(timer) };
}
