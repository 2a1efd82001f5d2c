import { decide } from '../decide';
import type { ConversationMemory, DecisionFacts } from '../../facts/types';
import type { Decision } from '../types';
import type { AccountRecord, DealRecord, OwnRecord, PersonRecord } from '../../records/directory';
import { Directory } from '../../records/directory';
import type { CompiledRulebook } from '../../rulebook/compile';

/** The records that the decision of an email may ask for. */
export interface Records {
  people: readonly PersonRecord[];
  accounts: readonly AccountRecord[];
  deals: readonly DealRecord[];
  /** Records of kinds that the workspace defines. */
  own?: readonly OwnRecord[];
  /** Accounts of contacts by the domains of their addresses. */
  accountsByColleagues?: readonly { domain: string; accountId: number }[];
  /** When people’s emails with an address were sent, milliseconds; only where a rule asks how many there are. */
  exchanges?: ReadonlyMap<string, readonly number[]>;
  /** Comparable addresses that do not exist, as delivery reports say. */
  undeliverable?: ReadonlySet<string>;
}

/** A directory of these records of its own: what is noted in it while deciding touches them not. */
export function directoryOf(records: Records): Directory {
  return new Directory({ ...records, deals: records.deals.map((deal) => ({ ...deal, activity: [...deal.activity] })) });
}

/** Everything that one email was decided from. */
export interface Situation {
  facts: DecisionFacts;
  rulebook: CompiledRulebook;
  records: Records;
  memory: ConversationMemory;
}

/** Decides the email again in this situation; the records given are not touched. */
export function decideIn({ facts, rulebook, records, memory }: Situation): Decision {
  let last = 0;
  return decide(facts, rulebook, directoryOf(records), memory, { next: () => (last -= 1) });
}
