import { RULES } from '../rulebook/schema';
import type { ConversationMemory, Decision, Direction, Filing } from './types';

/** Matches of a deal that are beyond doubt: they count for the whole conversation. */
export const CERTAIN_DEAL_RULES: ReadonlySet<string> = new Set([
  RULES.dealByCode,
  RULES.onlyOpenDeal,
  RULES.dealByConversation,
  RULES.filingAddress,
  RULES.filingFolder,
  RULES.pinOfConversation,
]);

export const isCertainDeal = (filing: Filing): boolean => filing.kind === 'deal' && CERTAIN_DEAL_RULES.has(filing.rule);

/** What the next emails of the conversation know after this decision. */
export function remember(
  memory: ConversationMemory,
  { filings, direction, outcome }: Pick<Decision, 'filings'> & { direction: Direction | null; outcome: string | null },
): ConversationMemory {
  // A sealed email leaves no trace in what is decided after it.
  if (outcome === 'sealed') return memory;
  const deal = filings.find(isCertainDeal);
  const keys = filings.map((one) => `${one.kind}:${one.id}`);
  return {
    dealId: memory.dealId ?? deal?.id ?? null,
    weWrote: memory.weWrote || direction === 'sent',
    filed: memory.filed || filings.length > 0,
    earlier: memory.earlier + 1,
    // Most answers stand where the email before them stands.
    records: keys.every((key) => memory.records.has(key)) ? memory.records : new Set([...memory.records, ...keys]),
  };
}
