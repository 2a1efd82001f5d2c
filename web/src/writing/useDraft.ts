import type { MadeLink, Outgoing, OutgoingContent } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import { answerKey, answersOf } from '../api/asked';
import { call } from '../api/call';
import { queryOf, sendFile } from '../api/client';
import type { DocumentOrder } from './documents/ChooseDocuments';

/** What its writer can change. */
const CONTENT = [
  'mailboxId',
  'fromAddress',
  'withSignature',
  'to',
  'cc',
  'bcc',
  'subject',
  'html',
  'withQuote',
  'filing',
  'remindDays',
  'measured',
] as const;

export type Content = Pick<Outgoing, (typeof CONTENT)[number]>;

const SAVE_AFTER_MS = 1200;

const contentOf = (outgoing: Outgoing): Content => Object.fromEntries(CONTENT.map((key) => [key, outgoing[key]])) as Content;

const bodyOf = ({ filing, ...content }: Content, revision: number): OutgoingContent => ({
  ...content,
  filing: { how: filing.how, records: filing.records.map(({ kind, id }) => ({ kind, id })) },
  revision,
});

export interface Draft {
  content: Content;
  /** What the server has; its files and revision are true, its text may be older. */
  stored: Outgoing;
  change: (part: Partial<Content>) => void;
  /** Saves at once what is not saved. @returns what is stored then */
  flush: () => Promise<Outgoing>;
  attach: (files: readonly File[]) => void;
  /** Attaches documents, or makes links to them. @returns the links, for the caller to put into the text */
  addDocuments: (order: DocumentOrder) => Promise<readonly MadeLink[]>;
  /** Stores a picture of the text. @returns where it is seen */
  addPicture: (file: File) => Promise<string>;
  removeFile: (id: number) => void;
  /** The name of the file that is on its way. */
  attaching: string | null;
  isSaved: boolean;
  savedAt: Date | null;
  error: Error | null;
}

/** A draft that saves itself a moment after each change. What is asked of the server is asked in turn: each needs the revision of the one before. */
export function useDraft(first: Outgoing): Draft {
  const client = useQueryClient();
  const [content, setContent] = useState(() => contentOf(first));
  const [stored, setStored] = useState(first);
  const [isSaved, setIsSaved] = useState(true);
  const [savedAt, setSavedAt] = useState<Date | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const [attaching, setAttaching] = useState<string | null>(null);
  const latest = useRef({ content, stored, isDirty: false, timer: 0, turn: Promise.resolve() as Promise<unknown> });

  const acts = useMemo(() => {
    const now = latest.current;
    const inTurn = async <T>(work: () => Promise<T>): Promise<T> => {
      const done = now.turn.then(work);
      now.turn = done.catch(() => undefined);
      return done.catch((failure: unknown) => {
        setError(failure as Error);
        throw failure;
      });
    };
    const take = (answer: Outgoing): void => {
      now.stored = answer;
      setStored(answer);
      client.setQueryData(answerKey('getOutgoing', { id: answer.id }), answer);
      void client.invalidateQueries(answersOf('listOutgoing'));
    };
    const flush = (): Promise<Outgoing> => {
      window.clearTimeout(now.timer);
      return inTurn(async () => {
        if (!now.isDirty) return now.stored;
        now.isDirty = false;
        try {
          take(await call('saveOutgoing', { id: now.stored.id, body: bodyOf(now.content, now.stored.revision) }));
        } catch (failure) {
          now.isDirty = true;
          throw failure;
        }
        setError(null);
        setSavedAt(new Date());
        setIsSaved(!now.isDirty);
        return now.stored;
      });
    };
    const saveSoon = (): void => void flush().catch(() => undefined);
    const change = (part: Partial<Content>): void => {
      now.content = { ...now.content, ...part };
      now.isDirty = true;
      setContent(now.content);
      setIsSaved(false);
      window.clearTimeout(now.timer);
      now.timer = window.setTimeout(saveSoon, SAVE_AFTER_MS);
    };
    const attach = (files: readonly File[]): void => {
      for (const file of files)
        void inTurn(async () => {
          setAttaching(file.name);
          const query = queryOf({ name: file.name, type: file.type || undefined });
          take((await sendFile(`/outgoing/${now.stored.id}/files${query}`, file)) as Outgoing);
        })
          .catch(() => undefined)
          .finally(() => setAttaching(null));
    };
    const addPicture = async (file: File): Promise<string> => {
      let added: Outgoing['files'][number] | undefined;
      await inTurn(async () => {
        const query = queryOf({ name: file.name || 'picture', type: file.type || undefined, inline: 'true' });
        const answer = (await sendFile(`/outgoing/${now.stored.id}/files${query}`, file)) as Outgoing;
        added = answer.files.find(({ id }) => !now.stored.files.some((before) => before.id === id));
        take(answer);
        setError(null);
      });
      return `/api/v1/outgoing/${now.stored.id}/files/${added?.id ?? 0}`;
    };
    const removeFile = (id: number): void => {
      void inTurn(async () => take(await call('detachFromOutgoing', { id: now.stored.id, file: id }))).catch(() => undefined);
    };
    const addDocuments = async (order: DocumentOrder): Promise<readonly MadeLink[]> => {
      // Links are for whom it is written to by now.
      await flush();
      return inTurn(async () => {
        const { outgoing, links } = await call('addDocuments', { id: now.stored.id, body: order });
        take(outgoing);
        return links;
      });
    };
    return { flush, change, attach, addDocuments, addPicture, removeFile, saveSoon };
  }, [client]);

  // What is not saved yet is saved when the composer goes, or the page is left.
  useEffect(() => {
    window.addEventListener('pagehide', acts.saveSoon);
    return () => {
      window.removeEventListener('pagehide', acts.saveSoon);
      acts.saveSoon();
    };
  }, [acts]);
  return { content, stored, attaching, isSaved, savedAt, error, ...acts };
}
