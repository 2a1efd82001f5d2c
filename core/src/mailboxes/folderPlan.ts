/** A message number that was dealt with before. */
export interface KnownMessage {
  uid: number;
  /** It was stored, or passed over on purpose. */
  settled: boolean;
  /** It was last seen to be gone. */
  gone: boolean;
  tries: number;
}

/** What has to be done with a folder. */
export interface FolderPlan {
  /** Message numbers to read, the newest first. */
  read: number[];
  /** Numbers that are no longer there. */
  gone: number[];
  /** Numbers that were thought gone and are there. */
  back: number[];
}

/** A message that could not be read is tried so often, over as many looks. */
const MAX_TRIES = 3;

/**
 * Compares what lies in a folder with what was dealt with. Since only the difference is read, it can be broken off at any
 * point and begun again.
 *
 * @param present message numbers in the folder within the chosen time
 * @param known what was dealt with under the same UIDVALIDITY
 */
export function planFolder(present: readonly number[], known: readonly KnownMessage[]): FolderPlan {
  const there = new Set(present);
  const byUid = new Map(known.map((message) => [message.uid, message]));
  const read = [...there].filter((uid) => {
    const before = byUid.get(uid);
    return !before || (!before.settled && before.tries < MAX_TRIES);
  });
  return {
    read: read.sort((first, second) => second - first),
    gone: known.filter((message) => !message.gone && !there.has(message.uid)).map((message) => message.uid),
    back: known.filter((message) => message.gone && there.has(message.uid)).map((message) => message.uid),
  };
}
