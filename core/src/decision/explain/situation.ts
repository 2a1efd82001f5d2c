import { decide } from '../decide';
import type { ConversationMemory, DecisionFacts } from '../../facts/types';
import type { Decision } from '../types';
import type { AccountRecord, DealRecord, PersonRecord } from '../../records/directory';
import { Directory } from '../../records/directory';
import type { CompiledRulebook } from '../../rulebook/compile';

/** The records that the decision of an email may ask for. */
export interface Records {
  people: readonly PersonRecord[];
  accounts: readonly AccountRecord[];
  deals: readonly DealRecord[];
  /** Accounts of contacts by the domains of their addresses. */
  accountsByColleagues?: readonly { domain: string; accountId: number }[];
}

/** Everything that one email was decided from. */
export interface Situation {
  facts: DecisionFacts;
  rulebook: CompiledRulebook;
  records: Records;
  memory: ConversationMemory;
}

/** Decides the email anew in this situation; the records given are not touched. */
export function decideIn({ facts, rulebook, records, memory }: Situation): Decision {
  let last = 0;
  const directory = new Directory({ ...records, deals: records.deals.map((deal) => ({ ...deal, activity: [...deal.activity] })) });
  return decide(facts, rulebook, directory, memory, { next: () => (last -= 1) });
}
