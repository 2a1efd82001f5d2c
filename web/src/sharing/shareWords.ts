import type { AccessRequest, Grant, SharingChoice } from '@fulvet/contract';
import { visibilityWords } from '@fulvet/core';
import { KIND_LABELS } from '../parts/people';

/** What a member said of their own mail, as a sentence without its subject. */
export function sharingChoiceText(
  word: Pick<SharingChoice, 'does' | 'scope' | 'value' | 'subject' | 'level' | 'teams' | 'existenceOnly' | 'until'>,
): string {
  const about =
    word.scope === 'email'
      ? `“${word.subject ?? 'an email'}”`
      : word.scope === 'conversation'
        ? `the conversation “${word.subject ?? ''}”`
        : `everything with ${word.value ?? ''}${word.until ? ' up to then' : ''}`;
  if (word.does === 'seal') return `${about}: sealed, no one else learns of it`;
  return `${about}: seen by ${visibilityWords(word.level ?? 'owner', word.teams, word.existenceOnly)}`;
}

/** What a request or a grant is about. */
export function subjectText(item: Pick<AccessRequest | Grant, 'scope' | 'record' | 'subject' | 'emails'>): string {
  if (item.scope === 'record')
    return item.record ? `all mail of the ${KIND_LABELS[item.record.kind].one.toLowerCase()} ${item.record.name}` : 'all mail of a record';
  const named = item.subject ? `“${item.subject}”` : 'an email';
  return item.scope === 'email' ? named : `the conversation ${named}`;
}
