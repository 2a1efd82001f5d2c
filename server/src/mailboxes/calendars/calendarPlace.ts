import type { CompiledRulebook, Span } from '@fulvet/core';
import type { FoundEvent } from '../../base/reading/readTasks';
import type { MailboxReaders } from '../../emails/owners';

/** The calendar that events are from, and its owner. */
export interface CalendarPlace {
  calendarId: number;
  mailboxId: number;
  /** What it is called where folders are. */
  folder: string;
  /** Addresses of the mailbox. */
  addresses: readonly string[];
  readers: MailboxReaders;
  rulebook: CompiledRulebook;
}

/** A calendar object as it was read. */
export interface ReadObject {
  href: string;
  etag: string;
  recurs: boolean;
  busy: readonly Span[];
  isPrivate: boolean;
  events: readonly FoundEvent[];
}
