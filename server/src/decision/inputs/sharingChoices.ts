import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { choiceScope, shareLevel } from '@fulvet/contract';
import type { SharingChoice, Participant } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import { keysOfParticipant } from './ownKeepOuts';

/** The words of owners that stand, arranged for asking of each email which ones are about it. */
export interface StandingWords {
  byEmail: ReadonlyMap<number, readonly StandingWord[]>;
  byConversation: ReadonlyMap<number, readonly StandingWord[]>;
  /** By `@address` or domain. */
  byValue: ReadonlyMap<string, readonly StandingWord[]>;
}

interface StandingWord {
  word: SharingChoice;
  /** Of mail up to this time only, milliseconds. */
  until: number | null;
}

const NONE: readonly SharingChoice[] = [];

const sharingChoiceRow = z.object({
  does: z.enum(['seal', 'share']),
  scope: choiceScope,
  email_id: z.number().nullable(),
  conversation_id: z.number().nullable(),
  value: z.string().nullable(),
  level: shareLevel.nullable(),
  teams: z.array(z.string()),
  existence_only: z.boolean(),
  user_id: z.number(),
  by: z.string(),
  at: z.number(),
  until: z.number().nullable(),
});

export async function loadSharingChoices(tx: Tx): Promise<StandingWords> {
  const rows = await rowsOf(
    tx,
    sharingChoiceRow,
    sql`
    SELECT w.does, w.scope, w.email_id, e.conversation_id, w.value, w.level, w.teams, w.existence_only, w.user_id, u.name AS by, (extract(epoch FROM w.at) * 1000)::float8 AS at, (extract(epoch FROM w.until) * 1000)::float8 AS until
    FROM sharing_choices w JOIN users u ON u.id = w.user_id LEFT JOIN emails e ON e.id = w.email_id WHERE w.withdrawn_at IS NULL ORDER BY w.id`,
  );
  const byEmail = new Map<number, StandingWord[]>();
  const byConversation = new Map<number, StandingWord[]>();
  const byValue = new Map<string, StandingWord[]>();
  for (const row of rows) {
    const { does, scope, teams, by, at, until } = row;
    const word: SharingChoice = {
      does,
      scope,
      value: row.value ?? '',
      level: row.level ?? 'owner',
      teams,
      existenceOnly: row.existence_only,
      userId: row.user_id,
      by,
      at,
    };
    const standing = { word, until };
    if (scope === 'email') put(byEmail, row.email_id ?? 0, standing);
    else if (scope === 'conversation') put(byConversation, row.conversation_id ?? 0, standing);
    else put(byValue, scope === 'person' ? `@${word.value}` : word.value, standing);
  }
  return { byEmail, byConversation, byValue };
}

function put<K>(map: Map<K, StandingWord[]>, key: K, word: StandingWord): void {
  const known = map.get(key);
  if (known) known.push(word);
  else map.set(key, [word]);
}

/** The words about an email, of those who have it in a mailbox of theirs. */
export function wordsOn(
  email: { id: number; conversationId: number; at: number; ownerIds: readonly number[]; participants: readonly Participant[] },
  words: StandingWords,
): readonly SharingChoice[] {
  if (words.byEmail.size + words.byConversation.size + words.byValue.size === 0 || email.ownerIds.length === 0) return NONE;
  const found = new Set<StandingWord>([...(words.byEmail.get(email.id) ?? []), ...(words.byConversation.get(email.conversationId) ?? [])]);
  if (words.byValue.size > 0)
    for (const participant of email.participants)
      for (const key of keysOfParticipant(participant)) for (const word of words.byValue.get(key) ?? []) found.add(word);
  if (found.size === 0) return NONE;
  return [...found]
    .filter(({ word, until }) => email.ownerIds.includes(word.userId) && (until === null || email.at <= until))
    .map((word) => word.word);
}
