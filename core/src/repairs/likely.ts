import type { RecordKind } from '../facts/recordKind';

/** One reason why an email may belong under a record. */
export type LikelyReason =
  | { why: 'candidate'; score: number | null }
  | { why: 'conversation'; emails: number }
  | { why: 'person'; address: string }
  | { why: 'account'; via: string }
  | { why: 'deal'; people: number; open: boolean }
  | { why: 'recent' }
  | { why: 'name'; begins: boolean };

export interface LikelyEvidence {
  kind: RecordKind;
  id: number;
  name: string;
  detail: string;
  reason: LikelyReason;
}

/** A record under which an email may belong, and why. */
export interface LikelyRecord {
  kind: RecordKind;
  id: number;
  name: string;
  detail: string;
  /** Higher is likelier; no unit. */
  score: number;
  /** The strongest reason first. */
  why: string[];
}

/** Records by the evidence that speaks for them, the likeliest first. Several reasons add up; the same one counts once. */
export function rankLikely(evidence: readonly LikelyEvidence[], most = 12): LikelyRecord[] {
  const byKey = new Map<string, { record: LikelyRecord; reasons: LikelyReason[] }>();
  for (const { kind, id, name, detail, reason } of evidence) {
    const key = `${kind}:${id}`;
    const known = byKey.get(key) ?? { record: { kind, id, name, detail, score: 0, why: [] }, reasons: [] };
    byKey.set(key, known);
    if (!known.reasons.some((item) => item.why === reason.why)) known.reasons.push(reason);
  }
  const ranked = [...byKey.values()].map(({ record, reasons }) => {
    const ordered = [...reasons].sort((first, second) => weightOf(second) - weightOf(first));
    return { ...record, score: ordered.reduce((sum, reason) => sum + weightOf(reason), 0), why: ordered.map(wordsOf).filter(Boolean) };
  });
  return ranked.sort((first, second) => second.score - first.score || (first.name < second.name ? -1 : 1)).slice(0, most);
}

function weightOf(reason: LikelyReason): number {
  switch (reason.why) {
    case 'name':
      return reason.begins ? 30 : 20;
    case 'candidate':
      return 8 + 4 * (reason.score ?? 0);
    case 'conversation':
      return 7;
    case 'deal':
      return (reason.open ? 4 : 1) + Math.min(reason.people, 4) / 2;
    case 'person':
      return 3;
    case 'account':
      return 3;
    case 'recent':
      return 2;
  }
}

function wordsOf(reason: LikelyReason): string {
  switch (reason.why) {
    case 'name':
      return '';
    case 'candidate':
      return reason.score === null ? 'one of those in question' : `one of those in question, ${reason.score.toFixed(2)}`;
    case 'conversation':
      return reason.emails === 1
        ? 'another email of this conversation is there'
        : `${reason.emails} other emails of this conversation are there`;
    case 'person':
      return `${reason.address} takes part`;
    case 'account':
      return `the company of ${reason.via}`;
    case 'deal':
      return `${reason.people === 1 ? 'one of its people takes' : `${reason.people} of its people take`} part${reason.open ? '' : '; it is closed'}`;
    case 'recent':
      return 'you filed there lately';
  }
}
