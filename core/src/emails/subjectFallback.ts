/** An email that may be joined to a conversation by its subject. */
export interface SubjectCandidate {
  /** Base subject in comparable form. */
  subjectKey: string;
  hasReferences: boolean;
  isForward: boolean;
  at: number;
  /** Comparable addresses of its external participants. */
  externals: readonly string[];
  /** Those of them who are in copy only. */
  copied: readonly string[];
}

/** An earlier email that it may be joined to. */
export interface SubjectPeer {
  conversation: string;
  at: number;
  externals: readonly string[];
  copied: readonly string[];
}

/** Longest time between two emails that are joined by subject, in milliseconds. */
export const SUBJECT_REACH = 30 * 86_400_000;

/**
 * The conversation that an email without any references belongs to by its subject.
 *
 * Only where the base subjects agree, at least one external participant is common, and no more than 30 days lie between. Who is in
 * copy on both is not enough: the lawyer of two customers who write about “Clause 9” makes no conversation of theirs. A forwarded email is never joined so. Of several, the nearest in time; among equals the first.
 *
 * @param peers earlier emails with the same base subject
 * @returns null when it starts a conversation of its own
 */
export function subjectFallback(email: SubjectCandidate, peers: readonly SubjectPeer[]): string | null {
  if (email.hasReferences || email.isForward || email.subjectKey === '') return null;
  const externals = new Set(email.externals);
  const copied = new Set(email.copied);
  let best: SubjectPeer | null = null;
  for (const peer of peers) {
    const distance = email.at - peer.at;
    if (distance < 0 || distance > SUBJECT_REACH) continue;
    if (!peer.externals.some((address) => externals.has(address) && !(copied.has(address) && peer.copied.includes(address)))) continue;
    if (best === null || peer.at > best.at) best = peer;
  }
  return best?.conversation ?? null;
}
