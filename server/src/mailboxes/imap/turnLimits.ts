/** How a turn ended: when the next one is due, or null when a person has to act first. */
export interface TurnEnd {
  againInMs: number | null;
}

/** What a turn may use of the connections to its provider. */
export interface ProviderRoom {
  /** Other mailboxes of the provider wait for a connection. */
  othersWait: () => boolean;
  /** One more connection, where no one waits for it. */
  takeSlot: () => Promise<(() => Promise<void>) | null>;
}

export interface TurnLimits {
  /** Between looks at the folders that are not watched. */
  lookMs: number;
  /** A turn gives way after this, so that its mailbox is taken up afresh. */
  longestMs: number;
  /** Where other mailboxes wait, a turn with nothing to do gives way after this. */
  restMs: number;
}

export const TURN_LIMITS: TurnLimits = { lookMs: 10_000, longestMs: 60 * 60_000, restMs: 15_000 };

/** A mailbox that found no connection free tries again after this. */
export const NO_SLOT_MS = 3000;

/** Something of the turn's own came to a stop: it ends without a failure. */
export class TurnOver extends Error {
  constructor(readonly againInMs = 0) {
    super();
  }
}
