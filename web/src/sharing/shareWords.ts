import type { AccessRequest, Grant, SharingChoice } from '@fulvet/contract';
import { visibilityWords } from '@fulvet/core';
import { KIND_LABELS } from '../parts/people';
import { shareWords as words } from './words';

/** What a member said of their own mail, as a sentence without its subject. */
export function sharingChoiceText(
  word: Pick<SharingChoice, 'does' | 'scope' | 'value' | 'subject' | 'level' | 'teams' | 'existenceOnly' | 'until'>,
): string {
  const about =
    word.scope === 'email'
      ? `“${word.subject ?? words.anEmail}”`
      : word.scope === 'conversation'
        ? words.theConversation(word.subject ?? '')
        : words.everythingWithUpTo(word.value ?? '', Boolean(word.until));
  if (word.does === 'seal') return words.sealedNoOneElse(about);
  return words.seenBy(about, visibilityWords(word.level ?? 'owner', word.teams, word.existenceOnly));
}

/** What a request or a grant is about. */
export function subjectText(item: Pick<AccessRequest | Grant, 'scope' | 'record' | 'subject' | 'emails'>): string {
  if (item.scope === 'record')
    return item.record ? words.allMailOfThe(KIND_LABELS[item.record.kind].one.toLowerCase(), item.record.name) : words.allMailOfA;
  const named = item.subject ? `“${item.subject}”` : words.anEmail;
  return item.scope === 'email' ? named : words.theConversationForNamed(named);
}
