import type { Decision } from './types';
import type { ShareLevel } from '../facts/types';
import { SHARE_LEVELS } from '../facts/types';

/** Who sees an email, as one text to compare and to store: `everyone`, `record, exists`, `teams: coast, rivers`. */
export function visibilityKey({
  visibility,
  sharedTeams,
  existenceOnly,
}: Pick<Decision, 'visibility' | 'existenceOnly'> & { sharedTeams: readonly string[] }): string {
  if (visibility !== 'teams' && !existenceOnly) return visibility;
  const teams = visibility === 'teams' ? `: ${[...sharedTeams].sort().join(', ')}` : '';
  return `${visibility}${teams}${existenceOnly ? ', exists' : ''}`;
}

/** How far a visibility reaches, to tell whether more is seen than before. That an email exists counts for less than what it says. */
export function reachOf(key: string): number {
  const level = SHARE_LEVELS.findIndex(
    (shareLevel) => key === shareLevel || key.startsWith(`${shareLevel},`) || key.startsWith(`${shareLevel}:`),
  );
  if (level <= 0) return 0;
  return key.endsWith(', exists') ? level / 10 : level;
}

const LEVEL_WORDS: Record<ShareLevel, string> = {
  owner: 'the owners of its mailboxes',
  record: 'those who own its records',
  teams: 'teams',
  everyone: 'everyone',
};

/** Who sees it, behind “seen by”. */
export function visibilityWords(level: ShareLevel, teams: readonly string[] = [], existenceOnly = false): string {
  const who = level === 'teams' ? `the team ${teams.join(' and ')}` : LEVEL_WORDS[level];
  return existenceOnly ? `${who}, that it exists only` : who;
}

/** A {@link visibilityKey} in words, behind “seen by”. */
export function visibilityKeyWords(key: string): string {
  const existenceOnly = key.endsWith(', exists');
  const plain = existenceOnly ? key.slice(0, -', exists'.length) : key;
  const level = SHARE_LEVELS.find((shareLevel) => plain === shareLevel || plain.startsWith(`${shareLevel}:`)) ?? 'owner';
  return visibilityWords(level, level === 'teams' ? [plain.slice('teams: '.length)] : [], existenceOnly);
}
