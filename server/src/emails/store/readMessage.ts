import type { EmailFacts } from '@fulvet/core';

/** A message that was read and is to be stored. */
export interface ReadMessage {
  raw: Uint8Array;
  facts: EmailFacts;
  file: string;
  /** Place in its import, from 1. */
  position: number;
  /** Who may read it for holding it: the users of its mailbox. */
  ownerIds: readonly number[];
  /** By what it is known, where not by what it says: events of calendars change. */
  identity?: string;
}
