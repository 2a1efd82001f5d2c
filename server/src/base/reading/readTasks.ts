import type { EmailBody, EmailFacts, EventWindow, ListedTodo, ListState, ReadOptions, Span, SplitCalendar } from '@fulvet/core';
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

/** A calendar object, from when to when its events are wanted, and whose calendar it is from. */
export interface EventsRequest {
  text: string;
  window: EventWindow;
  owner: { address: string; name: string };
  /** The owner's addresses. */
  addresses: readonly string[];
  arrivedAt: number;
}

/** An event as it is stored. */
export interface FoundEvent {
  raw: Uint8Array;
  facts: EmailFacts;
}

export interface FoundEvents {
  events: FoundEvent[];
  recurs: boolean;
  /** When its owner is taken, by events that are left out too. */
  busy: Span[];
  /** Its owner says that it is no one else's business: its events are left out. */
  isPrivate: boolean;
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
  /** The objects of a calendar file, one for each event with all its occurrences. */
  calendarFile: { input: string; output: SplitCalendar[] | null };
  /** The events of a calendar object in a window, as messages that carry them. */
  events: { input: EventsRequest; output: FoundEvents };
  /** The to-do of a calendar object; null where there is none. */
  todo: { input: string; output: ListedTodo | null };
  /** A calendar object with another state of its to-do, and all else as before. */
  changedTodo: { input: { text: string; state: ListState; at: number }; output: string | null };
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
