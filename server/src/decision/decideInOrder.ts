import { decide, isCertainDeal, NO_MEMORY, remember } from '@fulvet/core';
import type { CompiledRulebook, ConversationMemory, Decision, Directory, TemporaryIds } from '@fulvet/core';
import { filedUnder } from '../emails/filingsText';
import type { StoredEmail } from './inputs/loadFacts';

/** An email with what was decided about it. */
export interface DecidedEmail {
  email: StoredEmail;
  decision: Decision;
}

/**
 * Decides emails in the order given, each knowing what came before: in its conversation, and in the directory. Live and in trial.
 *
 * @param rulebookFor the rulebook that holds for an email, or null where the email stays as it stands and is only remembered
 */
export function decideInOrder(
  emails: readonly StoredEmail[],
  rulebookFor: (email: StoredEmail) => CompiledRulebook | null,
  directory: Directory,
  memories: Map<number, ConversationMemory>,
  ids: TemporaryIds,
): DecidedEmail[] {
  return emails.flatMap((email) => {
    const memory = memories.get(email.conversationId) ?? NO_MEMORY;
    const rulebook = rulebookFor(email);
    if (rulebook === null) {
      memories.set(email.conversationId, remember(memory, { ...email.before, filings: filedUnder(email.before.filings) }, email.facts));
      return [];
    }
    const decision = decide(email.facts, rulebook, directory, memory, ids);
    memories.set(email.conversationId, remember(memory, decision, email.facts));
    // How many emails there are with someone rests on what is kept out of them.
    const isOut = decision.outcome === 'kept out';
    if (
      rulebook.needsExchanges &&
      email.before.decided &&
      (email.before.outcome === 'kept out') !== isOut &&
      email.facts.mailClass === 'person'
    )
      directory.noteExchange(decision.externals, email.facts.at, !isOut);
    directory.noteDealActivity(
      decision.filings.filter(isCertainDeal).map((filing) => filing.id),
      email.facts.at,
    );
    return [{ email, decision }];
  });
}
