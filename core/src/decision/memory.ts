import { subjectKey, subjectParts } from '../emails/baseSubject';
import { RULES } from '../rulebook/schema';
import type { ConversationMemory, Direction } from '../facts/types';
import type { Decision, Filing } from './types';

/** Matches of a deal that are beyond doubt: they count for the whole conversation. */
export const CERTAIN_DEAL_RULES: ReadonlySet<string> = new Set([
  RULES.dealByCode,
  RULES.onlyOpenDeal,
  RULES.dealByConversation,
  RULES.filingAddress,
  RULES.filingFolder,
  RULES.pinOfConversation,
]);

/** Matches of a deal that are looked for only where the conversation's own deal does not hold, or has not been found yet. */
const FOUND_ANEW: ReadonlySet<string> = new Set([RULES.dealByCode, RULES.onlyOpenDeal]);

export const isCertainDeal = (filing: Filing): boolean => filing.kind === 'deal' && CERTAIN_DEAL_RULES.has(filing.rule);

/** The part of a subject by which it is told whether a conversation has turned to another matter. */
export const matterOf = (subject: string): string => subjectKey(subjectParts(subject).base);

/**
 * What the next emails of the conversation know after this decision.
 *
 * @param email its subject as written, null where it is not kept, and when it was sent, milliseconds
 */
export function remember(
  memory: ConversationMemory,
  { filings, direction, outcome }: Pick<Decision, 'filings'> & { direction: Direction | null; outcome: string | null },
  { subject, at }: { subject: string | null; at: number },
): ConversationMemory {
  // A sealed email leaves no trace in what is decided after it.
  if (outcome === 'sealed') return memory;
  const deal = filings.find(isCertainDeal);
  const isNew = deal !== undefined && (memory.dealId === null || (deal.id !== memory.dealId && FOUND_ANEW.has(deal.rule)));
  const keys = filings.map((filing) => `${filing.kind}:${filing.id}`);
  const isAway =
    !isNew &&
    (outcome === 'filed' || outcome === 'waiting') &&
    memory.dealSubject !== null &&
    !filings.some((filing) => filing.kind === 'deal' && filing.id === memory.dealId);
  // Most emails stay with the deal of their conversation: what their subject comes to is not asked then.
  const matter = (isNew || isAway) && subject !== null ? matterOf(subject) : null;
  const hasTurned = isAway && matter !== null && matter !== memory.dealSubject && !memory.otherMatters.has(matter);
  return {
    dealId: isNew ? deal.id : memory.dealId,
    dealSubject: isNew ? matter : memory.dealSubject,
    otherMatters: hasTurned ? new Set([...memory.otherMatters, matter]) : memory.otherMatters,
    lastAt: at,
    weWrote: memory.weWrote || direction === 'sent',
    filed: memory.filed || filings.length > 0,
    earlier: memory.earlier + 1,
    // Most answers stand where the email before them stands.
    records: keys.every((key) => memory.records.has(key)) ? memory.records : new Set([...memory.records, ...keys]),
  };
}
