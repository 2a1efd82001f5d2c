import { directionOf, externalParticipants, keysOf, NO_MEMORY, placeOf, remember, factsAsCounted } from '@fulvet/core';
import type { CompiledRulebook, CompiledStep, ConversationMemory, Directory, PastEmail } from '@fulvet/core';
import { setImmediate as letOthers } from 'node:timers/promises';
import { asItStands } from '../decision/decideInOrder';
import type { StoredEmail } from '../decision/inputs/loadFacts';

/** Texts are held of so many of the newest emails: rules about the text are counted over these. */
export const MOST_TEXTS = 50_000;
/** So many are made ready before other work of the process has its turn. */
const AT_A_TIME = 20_000;

/** Past mail as rules are counted over: facts, what stood before each in its conversation, and all records. */
export interface PastMail {
  /** In order of date. */
  emails: readonly PastEmail[];
  directory: Directory;
  /** Places in `emails` by the keys that rules ask for: addresses and domains. */
  byKey: ReadonlyMap<string, readonly number[]>;
  /** The first place from which on texts are held. */
  textsFrom: number;
  /** How many emails there are; more than `emails` while older ones are still being read. */
  total: number;
}

/**
 * Makes past mail ready for counting.
 *
 * @param stored the newest emails, or all, in order of date
 * @param rulebook tells who is outside
 * @param total how many emails there are
 */
export async function makePastMail(
  stored: readonly StoredEmail[],
  directory: Directory,
  rulebook: CompiledRulebook,
  total: number,
): Promise<PastMail> {
  const memories = new Map<number, ConversationMemory>();
  const emails: PastEmail[] = [];
  const byKey = new Map<string, number[]>();
  for (const { facts: asRead, conversationId, before } of stored) {
    const memory = memories.get(conversationId) ?? NO_MEMORY;
    const facts = factsAsCounted(asRead, rulebook, memory);
    memories.set(conversationId, remember(memory, asItStands({ before, facts }, rulebook), facts));
    const externals = externalParticipants(facts.participants, rulebook);
    for (const key of keysOf(externals, (address) => rulebook.personKey(address))) {
      const places = byKey.get(key);
      if (places) places.push(emails.length);
      else byKey.set(key, [emails.length]);
    }
    emails.push({ facts, memory, externals, direction: directionOf(facts.participants, externals, rulebook) });
    if (emails.length % AT_A_TIME === 0) await letOthers();
  }
  return { emails, directory, byKey, textsFrom: Math.max(0, emails.length - MOST_TEXTS), total };
}

/** The emails on which the rule can speak: found by the addresses and domains that it needs, else all that have what it asks. */
export function emailsFor(past: PastMail, rule: CompiledStep<unknown>, since: number): { emails: Iterable<PastEmail>; of: number } {
  const from = Math.max(
    rule.needs('body') ? past.textsFrom : 0,
    placeOf(past.emails, since, (email) => email.facts.at),
  );
  const of = past.emails.length - from;
  const keys = rule.keys();
  if (keys === null) return { emails: from === 0 ? past.emails : past.emails.slice(from), of };
  const places = new Set([...keys].flatMap((key) => past.byKey.get(key) ?? []));
  const ordered = [...places].filter((at) => at >= from).sort((first, second) => first - second);
  return { emails: ordered.flatMap((at) => past.emails[at] ?? []), of };
}
