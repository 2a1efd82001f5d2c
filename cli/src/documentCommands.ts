import type { DocumentContent } from '@fulvet/contract';
import { basename, parse } from 'node:path';
import type { Client } from './client';
import { CommandError } from './client';
import { say } from './texts';

export interface DocumentToAdd {
  title?: string;
  topic?: string;
  language?: string;
  /** A date such as 2027-12-31. */
  validUntil?: string;
  shared: boolean;
}

/** Prints the documents that the caller finds, a line each: title, topic, version in force, file. */
export async function listDocuments(client: Client): Promise<void> {
  const { documents } = await client.call('listDocuments');
  const lines = documents.map(({ title, topic, current, isOver }) =>
    [title, topic, isOver ? 'over' : current ? String(current.number) : 'none', current?.name ?? ''].join('\t'),
  );
  if (lines.length > 0) process.stdout.write(`${lines.join('\n')}\n`);
}

/** Adds a file: as a new version of the caller's document of that title, or as a new document. */
export async function addDocument(client: Client, file: string, order: DocumentToAdd): Promise<void> {
  const title = order.title ?? parse(file).name;
  const { documents } = await client.call('listDocuments', { text: title });
  const known = documents.find((document) => document.isMine && document.title === title);
  const content: DocumentContent = {
    title,
    ...(order.topic === undefined ? {} : { topic: order.topic }),
    ...(order.language === undefined ? {} : { language: order.language }),
    ...(order.validUntil === undefined ? {} : { validUntil: order.validUntil }),
    ...(order.shared ? { scope: 'all' as const } : {}),
  };
  const id = known?.id ?? (await client.call('createDocument', { body: content })).id;
  try {
    await client.uploadFile(`/documents/${id}/versions?name=${encodeURIComponent(basename(file))}`, file);
  } catch (error) {
    // A document without its file is not left behind.
    if (!known) await client.call('removeDocument', { id }).catch(() => undefined);
    throw error;
  }
  const { current } = await client.call('getDocument', { id });
  say(`${title}: version ${current?.number ?? 0}.`);
}

/** The ids of the documents with these titles. @throws when there is none, or more than one */
export async function documentsNamed(client: Client, titles: readonly string[]): Promise<number[]> {
  const { documents } = await client.call('listDocuments', { toSend: 'true' });
  return titles.map((title) => {
    const found = documents.filter((document) => document.title === title);
    const [document] = found;
    if (document && found.length === 1) return document.id;
    throw new CommandError(
      found.length === 0
        ? `There is no document “${title}” in force. “fulvet documents list” shows those that there are.`
        : `There are ${found.length} documents “${title}”. Give one of them another title.`,
    );
  });
}
