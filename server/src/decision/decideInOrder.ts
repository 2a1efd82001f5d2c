import { decide, externalParticipants, fromForm, isByPeople, isCertainDeal, NO_MEMORY, remember } from '@fulvet/core';
import type { CompiledRulebook, ConversationMemory, Decision, Directory, Remembered, TemporaryIds } from '@fulvet/core';
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
 * @param rulebookFor the rulebook that holds for an email
 * @param stays which emails stay as they stand, and are only remembered
 */
export function decideInOrder(
  emails: readonly StoredEmail[],
  rulebookFor: (email: StoredEmail) => CompiledRulebook,
  directory: Directory,
  memories: Map<number, ConversationMemory>,
  ids: TemporaryIds,
  stays: (email: StoredEmail) => boolean = () => false,
): DecidedEmail[] {
  return emails.flatMap((email) => {
    const memory = memories.get(email.conversationId) ?? NO_MEMORY;
    const rulebook = rulebookFor(email);
    if (stays(email)) {
      memories.set(email.conversationId, remember(memory, asItStands(email, rulebook), email.facts));
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
      isByPeople(email.facts.mailClass)
    )
      directory.noteExchange(decision.externals, email.facts.at, !isOut);
    directory.noteDealActivity(certainDeals(filedUnder(email.before.filings)), certainDeals(decision.filings), email.facts.at);
    return [{ email, decision }];
  });
}

/** The deals that an email is filed under beyond doubt. */
export function certainDeals(filings: Decision['filings']): ReadonlySet<number> {
  return new Set(filings.filter(isCertainDeal).map((filing) => filing.id));
}

/** What is remembered of an email as it stands. */
export function asItStands({ before, facts }: Pick<StoredEmail, 'before' | 'facts'>, rulebook: CompiledRulebook): Remembered {
  const filings = filedUnder(before.filings);
  // Who took part is asked of deals only.
  const externals = before.filings.includes('deal:')
    ? externalParticipants(fromForm(facts, rulebook).participants, rulebook).map(({ address }) => address)
    : [];
  return { direction: before.direction, outcome: before.outcome, filings, externals };
}
