import { useQueryClient } from '@tanstack/react-query';
import { ALL_BUT_SESSION, answersOf, answerKey } from './asked';
import { setListening } from './listening';
import type { QueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';

/** What the server tells open pages; never what an email says. */
type Told = { kind: 'mail'; records: string[] } | { kind: 'mailbox'; id: number } | { kind: 'progress'; of: string };

/** What summarises all mail is asked for again at most so often. */
const SUMMARY_MS = 2000;
const SUMMARIES = answersOf(
  'getLine',
  'getArrival',
  'listEmails',
  'listRecords',
  'search',
  'listMailboxes',
  'getDesk',
  'findByMessageId',
  'getSample',
  'listAccessRequests',
);

/** What shows work of a kind. */
const OF_WORK: Readonly<Record<string, ReturnType<typeof answersOf>>> = {
  import: answersOf('listImports', 'getImport', 'listImportItems'),
  trial: answersOf('listTrials', 'getTrial'),
  'past run': answersOf('listDecideRuns'),
  outgoing: answersOf('listOutgoing', 'getOutgoing', 'getHistory'),
  tasks: answersOf('listTasks', 'getArrival'),
  series: answersOf('listSeriesRuns', 'listBulk', 'getArrival', 'listOutgoing'),
};

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
      void client.invalidateQueries(SUMMARIES);
    });
    /** So that each page knows whether it is told of the rest. */
    const askForWork = (): void => {
      for (const answers of Object.values(OF_WORK)) void client.invalidateQueries(answers);
    };
    const stop = (): void => {
      if (source) missed = true;
      setListening(false);
      source?.close();
      source = null;
    };
    const listen = (): void => {
      if (source || document.visibilityState === 'hidden') return;
      source = new EventSource('/api/v1/changes');
      source.onerror = () => {
        missed = true;
        setListening(false);
        askForWork();
      };
      source.onopen = () => {
        // While no one listened anything may have changed.
        setListening(true);
        if (missed) void client.invalidateQueries(ALL_BUT_SESSION);
        else askForWork();
        missed = false;
      };
      source.onmessage = (event: MessageEvent<string>) => {
        const told = JSON.parse(event.data) as Told;
        if (told.kind === 'progress') return void client.invalidateQueries(OF_WORK[told.of]);
        if (told.kind === 'mailbox') showMailbox(client, told.id);
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

function showMailbox(client: QueryClient, id: number): void {
  void client.invalidateQueries({ queryKey: answerKey('getMailbox', { id }) });
  void client.invalidateQueries({ queryKey: answerKey('listCalendars', { id }) });
  void client.invalidateQueries(answersOf('listMailboxEvents'));
}

const OF_RECORDS = answersOf('getHistory', 'getDomainHistory', 'getRecord', 'getInsights', 'getDomainInsights');

/** Histories of the records that are named change at once; an empty list stands for any. */
function showMail(client: QueryClient, records: readonly string[]): void {
  void client.invalidateQueries({
    predicate: (query) => {
      if (!OF_RECORDS.predicate(query)) return false;
      const { kind, id } = query.queryKey[1] as { kind?: string; id?: number };
      return records.length === 0 || records.includes(`${String(kind)}:${String(id)}`);
    },
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
