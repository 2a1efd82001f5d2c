import type { DealRecord } from '../records/directory';
import { placeOfNumber } from '../records/inOrder';
import { nameKey } from '../person/nameKey';
import { wordsOf } from './dealName';
import type { DealScore } from './types';
import type { DecisionFacts } from '../facts/types';

const DAY = 86_400_000;
/** Weights of the evidence; a score is at most 1. */
const PEOPLE = 0.35;
const OWNER = 0.25;
/** The same while another candidate may be anybody's. */
const OWNER_AMONG_UNOWNED = 0.2;
const RECENCY = 0.2;
/** A subject that names the deal tells more than that another was written about lately; one word of its name tells less. */
const WHOLE_NAME = 0.4;
const OWN_WORD = 0.125;
const SHARED_WORD = 0.0625;
/** After so many days without activity, its weight has fallen to a third. */
const FADE_DAYS = 30;
/** After so many days it tells nothing any more that a score shows. */
export const ACTIVITY_TELLS_DAYS = 6 * FADE_DAYS;
/** Weight of the account where none of a deal's people takes part: they are not on it, but it is with their company. */
const ACCOUNT_ONLY = 0.15;

/**
 * Scores the deals that an email may belong to, from named evidence: its people who take part, its owner among those who hold the
 * email, words of its name in the subject that the others do not have, and how lately it was written about.
 *
 * Where no one of a deal takes part it is a candidate by its account, which tells less than its people do.
 *
 * @param present people of the email, as `kind:id`
 * @param nameOfAccount a subject may name a deal by its company, as resellers do
 * @returns best first
 */
export function scoreDeals(
  facts: DecisionFacts,
  candidates: readonly DealRecord[],
  present: ReadonlySet<string>,
  nameOfAccount: NameOfAccount = () => undefined,
): DealScore[] {
  const found = findWords(facts.subject, candidates, nameOfAccount);
  const holders = new Set([...facts.users, ...facts.mailboxes]);
  const ofOwner = candidates.every((candidate) => candidate.owner !== null) ? OWNER : OWNER_AMONG_UNOWNED;
  return candidates
    .map((deal): DealScore => {
      const people = deal.people.filter((person) => present.has(person)).length;
      const { words, weight } = found.get(deal) ?? NOTHING_FOUND;
      const days = daysSince(deal.activity, facts.at);
      const owner = deal.owner !== null && holders.has(deal.owner);
      const score =
        (people === 0 ? ACCOUNT_ONLY : PEOPLE * (people / Math.max(1, present.size))) + (owner ? ofOwner : 0) + weight + recencyOf(days);
      return {
        id: deal.id,
        name: deal.name,
        score: Math.round(Math.min(1, score) * 100) / 100,
        people,
        of: deal.people.length,
        owner,
        words,
        days,
      };
    })
    .sort((first, second) => second.score - first.score || first.id - second.id);
}

/** Whether a deal on which no one of the email is could reach a score by all other evidence; cheap to ask. */
export function couldReach({ at, users, mailboxes }: DecisionFacts, deal: DealRecord, score: number): boolean {
  const { owner } = deal;
  const holds = owner !== null && (users.includes(owner) || mailboxes.includes(owner));
  // Rounding may lift a score by half a hundredth.
  return ACCOUNT_ONLY + WHOLE_NAME + (holds ? OWNER : 0) + recencyOf(daysSince(deal.activity, at)) + 0.005 >= score;
}

const recencyOf = (days: number | null): number => RECENCY * (days === null ? 0 : Math.exp(-days / FADE_DAYS));

/** The best, when it is good enough and clearly ahead of the next. */
export function clearWinner(scores: readonly DealScore[], threshold: number, margin: number): DealScore | null {
  const [best, next] = scores;
  if (!best || best.score < threshold) return null;
  // In hundredths, as scores are shown: what reads 0.15 ahead is.
  return Math.round((best.score - (next?.score ?? 0)) * 100) >= Math.round(margin * 100) ? best : null;
}

/** The names of deals stay, and many emails ask for them. A deal that was renamed is known by all that it had. */
const wordsByDeal = new WeakMap<DealRecord, readonly ReadonlyMap<string, string>[]>();

function wordsOfNames(deal: DealRecord): readonly ReadonlyMap<string, string>[] {
  const known = wordsByDeal.get(deal);
  if (known) return known;
  const words = [deal.name, ...(deal.formerNames ?? [])].map(wordsOf);
  wordsByDeal.set(deal, words);
  return words;
}

/** What a subject has of the names of a deal, and how much that tells. */
interface WordsFound {
  words: readonly string[];
  weight: number;
}
type NameOfAccount = (accountId: number) => string | undefined;
const NOTHING_FOUND: WordsFound = { words: [], weight: 0 };

/** Whether a subject names some of these deals beyond doubt, and has no word of this one. */
export function namesOthers(subject: string, deal: DealRecord, others: readonly DealRecord[]): boolean {
  const found = findWords(subject, [deal, ...others], () => undefined);
  return found.get(deal)?.weight === 0 && others.some((other) => found.get(other)?.weight === WHOLE_NAME);
}

function findWords(subject: string, candidates: readonly DealRecord[], nameOfAccount: NameOfAccount): Map<DealRecord, WordsFound> {
  const said = wordsOf(subject);
  const sets = candidates.map((deal) => new Set(wordsOfNames(deal).flatMap((name) => [...name.keys()])));
  const having = countOfWords(sets);
  const isShared = candidates.every((candidate) => candidate.accountId === candidates[0]?.accountId);
  return new Map(
    candidates.map((deal, at) => {
      const byName = wordsFound(deal, said, having, sets, at);
      const company = isShared || byName.weight === WHOLE_NAME || deal.accountId === null ? undefined : nameOfAccount(deal.accountId);
      return [deal, (company === undefined ? null : wholeName(company, said)) ?? byName];
    }),
  );
}

/** The words of a company's name, where the subject has all of them. */
function wholeName(company: string, subject: ReadonlyMap<string, string>): WordsFound | null {
  const words = wordsOf(nameKey(company));
  return words.size > 0 && [...words.keys()].every((word) => subject.has(word)) ? { words: [...words.values()], weight: WHOLE_NAME } : null;
}

/** The words of that name of a deal of which the subject tells most, and how much they tell. */
function wordsFound(
  deal: DealRecord,
  subject: ReadonlyMap<string, string>,
  having: ReadonlyMap<string, number>,
  sets: readonly ReadonlySet<string>[],
  at: number,
): WordsFound {
  let best = NOTHING_FOUND;
  for (const name of wordsOfNames(deal)) {
    const own = [...name.keys()].filter((word) => having.get(word) !== sets.length || sets.length === 1);
    const found = own.filter((word) => subject.has(word));
    const isTogether = found.length > 1 && sets.every((words, place) => place === at || !found.every((word) => words.has(word)));
    const weight = isTogether ? WHOLE_NAME : weightOfWords(own, found, having);
    if (weight > best.weight) best = { words: found.map((word) => name.get(word) ?? word), weight };
  }
  return best;
}

/** In how many names each word stands. Words that every name has tell nothing. */
function countOfWords(lists: readonly Iterable<string>[]): Map<string, number> {
  const counts = new Map<string, number>();
  for (const list of lists) for (const word of list) counts.set(word, (counts.get(word) ?? 0) + 1);
  return counts;
}

/**
 * How much the words tell that the subject shares with a deal's name, where another candidate has them all. A word that no other has tells of
 * it, as its only one it names it; words that other candidates have, too, tell little each.
 */
function weightOfWords(own: readonly string[], found: readonly string[], having: ReadonlyMap<string, number>): number {
  const isAlone = found.some((word) => having.get(word) === 1);
  if (!isAlone) return Math.min(OWN_WORD, found.length * SHARED_WORD);
  return own.length === 1 ? WHOLE_NAME : OWN_WORD;
}

function daysSince(activity: readonly number[], at: number): number | null {
  const last = activity[placeOfNumber(activity, at) - 1];
  return last === undefined ? null : Math.floor((at - last) / DAY);
}
