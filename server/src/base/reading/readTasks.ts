import type { EmailBody, EmailFacts, ReadOptions } from '@fulvet/core';
import type { RecordTable } from '../files/readCsv';

/** A message that is to be read. */
export interface Unread {
  raw: Uint8Array;
  options: ReadOptions;
}

/** An email's HTML as a page for its frame, and how it is to be shown. */
export interface FrameRequest {
  raw: Uint8Array;
  showRemote: boolean;
}

/** All that is read from input that others wrote, each with what goes in and what comes out. Both are plain data. */
export interface ReadTasks {
  emails: { input: readonly Unread[]; output: EmailFacts[] };
  frame: { input: FrameRequest; output: string };
  /** The files of an email that are not shown in its text, at most so many and so many bytes together; what does not fit is left out. */
  files: { input: { raw: Uint8Array; most: number; bytes: number }; output: EmailBody['attachments'] };
  attachment: { input: { raw: Uint8Array; position: number }; output: EmailBody['attachments'][number] | null };
  /** Subject and text of an email as one that is written here could have them. */
  written: { input: { raw: Uint8Array }; output: { subject: string; html: string } };
  table: { input: { text: string; format: 'csv' | 'vcard' }; output: RecordTable };
}

export type ReadTask = keyof ReadTasks;

/** What carries the tasks out, in a thread of its own. */
export type Readers = { [Task in ReadTask]: (input: ReadTasks[Task]['input']) => Promise<ReadTasks[Task]['output']> };

export interface ReadOrder {
  id: number;
  task: ReadTask;
  input: unknown;
}

export type ReadAnswer = { id: number; output: unknown } | { id: number; failed: string };
