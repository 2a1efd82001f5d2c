import type { CompiledRulebook } from '../rulebook/compile';
import { fromForm } from './formAuthor';
import type { ConversationMemory, DecisionFacts } from '../facts/types';

/**
 * The list or group of ours through which someone outside wrote to us, or null. A shared address is often such a group, and adds the header
 * fields of a list to each email (RFC 2919, 2369): they make it no newsletter. What we send out to many through a list stays one.
 */
export function ownListOf(
  { mailClass, classProof, participants }: Pick<DecisionFacts, 'mailClass' | 'classProof' | 'participants'>,
  rulebook: CompiledRulebook,
  { earlier }: Pick<ConversationMemory, 'earlier'>,
): string | null {
  if (mailClass !== 'newsletter' || !isOwnListId(classProof, rulebook)) return null;
  const sender = participants.find((participant) => participant.role === 'from');
  if (!sender) return null;
  return earlier > 0 || !rulebook.isOurs(sender.address, sender.domain) ? listId(classProof?.value ?? '') : null;
}

/** The facts of an email as its sender wrote it, without what a list added. */
export const asWritten = (facts: DecisionFacts): DecisionFacts => ({ ...facts, mailClass: 'person', classProof: null });

/** The facts as they count: what came through a list of ours, or a form, is as its author wrote it. */
export function factsAsCounted(
  facts: DecisionFacts,
  rulebook: CompiledRulebook,
  memory: Pick<ConversationMemory, 'earlier'>,
): DecisionFacts {
  return fromForm(ownListOf(facts, rulebook, memory) === null ? facts : asWritten(facts), rulebook);
}

/** Whether the proof of an email's class is that it came through a list under our own domains. */
export function isOwnListId(proof: DecisionFacts['classProof'], rulebook: CompiledRulebook): boolean {
  if (proof?.header !== 'List-Id') return false;
  const id = listId(proof.value);
  return id.includes('.') && rulebook.isOurs(id.replace('.', '@'), id);
}

const listId = (value: string): string => (/<([^<>\s]+)>/.exec(value)?.[1] ?? value.trim()).toLowerCase();
