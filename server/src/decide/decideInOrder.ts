import { decide, isCertainDeal, NO_MEMORY, remember } from '@fulvet/core';
import type { CompiledRulebook, ConversationMemory, Decision, Directory, TemporaryIds } from '@fulvet/core';
import type { StoredEmail } from './loadFacts';

/** Decides emails in the order given, each knowing what came before: in its conversation, and in the directory. Live and in trial. */
export function decideInOrder(
  emails: readonly StoredEmail[],
  rulebook: CompiledRulebook,
  directory: Directory,
  memories: Map<number, ConversationMemory>,
  ids: TemporaryIds,
): { email: StoredEmail; decision: Decision }[] {
  return emails.map((email) => {
    const memory = memories.get(email.conversationId) ?? NO_MEMORY;
    const decision = decide(email.facts, rulebook, directory, memory, ids);
    memories.set(email.conversationId, remember(memory, decision));
    directory.noteDealActivity(
      decision.filings.filter(isCertainDeal).map((one) => one.id),
      email.facts.at,
    );
    return { email, decision };
  });
}
