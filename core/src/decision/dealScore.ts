import type { DealRecord } from '../directory/directory';
import { placeOfNumber } from '../directory/inOrder';
import type { DealScore, DecisionFacts } from './types';

const DAY = 86_400_000;
/** Weights of the evidence; together 1. */
const PEOPLE = 0.35;
const OWNER = 0.2;
const WORDS = 0.25;
const RECENCY = 0.2;
/** After so many days without activity, its weight has fallen to a third. */
const FADE_DAYS = 30;
const WORD = /[\p{L}\d]{3,}/gu;

/**
 * Scores the deals that an email may belong to, from named evidence: its people who take part, its owner among those who hold the
 * email, words of its name in the subject that the others do not have, and how lately it was written about.
 *
 * @param present people of the email, as `kind:id`
 * @returns best first
 */
export function scoreDeals(facts: DecisionFacts, candidates: readonly DealRecord[], present: ReadonlySet<string>): DealScore[] {
  const subject = new Set(wordsOf(facts.subject));
  const names = new Map(candidates.map((deal) => [deal.id, wordsOf(deal.name)]));
  const shared = wordsInAll([...names.values()]);
  const holders = new Set([...facts.users, ...facts.mailboxes]);
  return candidates
    .map((deal): DealScore => {
      const people = deal.people.filter((one) => present.has(one)).length;
      const own = (names.get(deal.id) ?? []).filter((word) => !shared.has(word));
      const words = own.filter((word) => subject.has(word));
      const days = daysSince(deal.activity, facts.at);
      const owner = deal.owner !== null && holders.has(deal.owner);
      const score =
        PEOPLE * (people / Math.max(1, present.size)) +
        (owner ? OWNER : 0) +
        WORDS * (own.length === 0 ? 0 : Math.min(1, words.length / Math.min(2, own.length))) +
        RECENCY * (days === null ? 0 : Math.exp(-days / FADE_DAYS));
      return { id: deal.id, name: deal.name, score: Math.round(score * 100) / 100, people, of: deal.people.length, owner, words, days };
    })
    .sort((one, other) => other.score - one.score || one.id - other.id);
}

/** The best, when it is good enough and clearly ahead of the next. */
export function clearWinner(scores: readonly DealScore[], threshold: number, margin: number): DealScore | null {
  const [best, next] = scores;
  if (!best || best.score < threshold) return null;
  return best.score - (next?.score ?? 0) >= margin ? best : null;
}

function wordsOf(text: string): string[] {
  return [...new Set([...text.toLowerCase().matchAll(WORD)].map(([word]) => word))];
}

/** Words that every name has tell nothing. */
function wordsInAll(lists: readonly string[][]): Set<string> {
  const [first = [], ...rest] = lists;
  return new Set(rest.length === 0 ? [] : first.filter((word) => rest.every((list) => list.includes(word))));
}

function daysSince(activity: readonly number[], at: number): number | null {
  const last = activity[placeOfNumber(activity, at) - 1];
  return last === undefined ? null : Math.floor((at - last) / DAY);
}
