/** An email that may be joined to a conversation by its subject. */
export interface SubjectCandidate {
  /** Base subject in comparable form. */
  subjectKey: string;
  hasReferences: boolean;
  /** Its subject has a reply prefix; the same subject written fresh begins a conversation. */
  isReply: boolean;
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
 * Only where its subject has a reply prefix, the base subjects agree, at least one external participant is common, and no more than 30 days lie between. Who is in
 * copy on both is not enough: the lawyer of two customers who write about “Clause 9” makes no conversation of theirs. A forwarded email is never joined so. Of several, the nearest in time; among equals the first.
 *
 * @param peers earlier emails with the same base subject
 * @returns null when it starts a conversation of its own
 */
export function subjectFallback(email: SubjectCandidate, peers: readonly SubjectPeer[]): string | null {
  const known = new SubjectPeers();
  for (const peer of [...peers].sort((first, second) => first.at - second.at)) if (peer.at <= email.at) known.add(peer);
  return known.nearest(email);
}

/** The latest emails of one base subject that name an address: at all, and otherwise than in copy. */
interface Latest {
  any: SubjectPeer;
  direct: SubjectPeer | null;
}

/** Emails of one base subject, taken in order of time; each is found by its addresses, so that many of them cost no more than few. */
export class SubjectPeers {
  private readonly byAddress = new Map<string, Latest>();
  private readonly order = new Map<SubjectPeer, number>();

  /** @param peer not earlier than any before it */
  add(peer: SubjectPeer): void {
    this.order.set(peer, this.order.size);
    const copied = new Set(peer.copied);
    for (const address of peer.externals) {
      const known = this.byAddress.get(address);
      const direct = copied.has(address) ? null : peer;
      this.byAddress.set(address, {
        any: later(known?.any ?? null, peer),
        direct: direct ? later(known?.direct ?? null, direct) : (known?.direct ?? null),
      });
    }
  }

  /** As {@link subjectFallback}, among those that were added. */
  nearest(email: SubjectCandidate): string | null {
    if (email.hasReferences || !email.isReply || email.isForward || email.subjectKey === '') return null;
    const copied = new Set(email.copied);
    let best: { peer: SubjectPeer; order: number } | null = null;
    for (const address of email.externals) {
      const known = this.byAddress.get(address);
      const peer = copied.has(address) ? known?.direct : known?.any;
      if (!peer || email.at - peer.at > SUBJECT_REACH || email.at < peer.at) continue;
      const order = this.order.get(peer) ?? 0;
      if (best === null || peer.at > best.peer.at || (peer.at === best.peer.at && order < best.order)) best = { peer, order };
    }
    return best?.peer.conversation ?? null;
  }
}

/** Of two, the later; of equals the first. */
function later(known: SubjectPeer | null, peer: SubjectPeer): SubjectPeer {
  return known !== null && known.at >= peer.at ? known : peer;
}
