import type { Evidence } from './types';
import type { SharingChoice } from '../facts/types';
import { WORD_SCOPES } from '../facts/types';
import { reachOf, visibilityKey } from './visibility';

/** What the words of an email's owners come to. */
export interface WordVerdict {
  seal: SharingChoice | null;
  share: SharingChoice | null;
}

const NOTHING: WordVerdict = { seal: null, share: null };

/**
 * Weighs what owners say of who sees an email. One owner's seal is enough. Of one owner's shares the most particular holds (email before conversation
 * before person before domain), of several alike the latest; where owners differ, the narrowest: in doubt fewer people see it.
 */
export function weighWords(words: readonly SharingChoice[]): WordVerdict {
  if (words.length === 0) return NOTHING;
  const seal = words.find((word) => word.does === 'seal') ?? null;
  const byOwner = new Map<number, SharingChoice>();
  for (const word of words) {
    const known = byOwner.get(word.userId);
    if (word.does === 'share' && (!known || goesBefore(word, known))) byOwner.set(word.userId, word);
  }
  const share = [...byOwner.values()].sort((first, second) => reach(first) - reach(second) || first.userId - second.userId)[0] ?? null;
  return { seal, share };
}

export function wordEvidence({ does, scope, value, by, at }: SharingChoice): Evidence {
  return { fact: 'own word', does, scope, value, by, at };
}

function goesBefore(first: SharingChoice, second: SharingChoice): boolean {
  const place = WORD_SCOPES.indexOf(first.scope) - WORD_SCOPES.indexOf(second.scope);
  return place < 0 || (place === 0 && first.at > second.at);
}

function reach({ level, teams, existenceOnly }: SharingChoice): number {
  return reachOf(visibilityKey({ visibility: level, sharedTeams: teams, existenceOnly }));
}
