import { subjectKey, subjectParts } from '../emails/baseSubject';
import { RULES } from '../rulebook/schema';
import type { ConversationDeal, ConversationMemory, Direction } from '../facts/types';
import { withoutTag } from '../address/address';
import { currentSubject } from './dealCode';
import type { Filing } from './types';

/** Matches of a deal that are beyond doubt: they count for the whole conversation. */
export const CERTAIN_DEAL_RULES: ReadonlySet<string> = new Set([
  RULES.dealByCode,
  RULES.dealByName,
  RULES.onlyOpenDeal,
  RULES.dealByConversation,
  RULES.filingAddress,
  RULES.filingFolder,
  RULES.pinOfConversation,
  RULES.principal,
]);

export const isCertainDeal = (filing: Filing): boolean => filing.kind === 'deal' && CERTAIN_DEAL_RULES.has(filing.rule);

/** The part of a subject by which it is told whether a conversation has turned to another matter. */
export const matterOf = (subject: string): string => subjectKey(subjectParts(currentSubject(subject)).base);

/** Who takes part in an email, and their records, in the form in which {@link ConversationDeal} keeps them. @param externals external addresses */
export function partiesOf(externals: readonly string[], filings: readonly Filing[]): string[] {
  const found = externals.map((address) => `@${withoutTag(address)}`);
  for (const { kind, id } of filings) if (kind !== 'deal') found.push(`${kind}:${id}`);
  return found;
}

/** What is remembered of an email: what was decided, and from whom and to whom outside it went. */
export interface Remembered {
  filings: readonly Filing[];
  direction: Direction | null;
  outcome: string | null;
  /** Addresses outside. */
  externals: readonly string[];
}

/**
 * What the next emails of the conversation know after this decision.
 *
 * @param email its subject as written, null where it is not kept, and when it was sent, milliseconds
 */
export function remember(
  memory: ConversationMemory,
  { filings, direction, outcome, externals }: Remembered,
  { subject, at }: { subject: string | null; at: number },
): ConversationMemory {
  // A sealed email leaves no trace in what is decided after it.
  if (outcome === 'sealed') return memory;
  const keys = filings.map((filing) => `${filing.kind}:${filing.id}`);
  const isAway =
    (outcome === 'filed' || outcome === 'waiting') &&
    memory.deals.some((known) => known.subject !== null) &&
    !filings.some(
      (filing) => filing.kind === 'deal' && (isCertainDeal(filing) || memory.deals.some((known) => known.dealId === filing.id)),
    );
  // Most emails stay with the deal of their conversation: what their subject comes to is not asked then.
  const matter = isAway && subject !== null ? matterOf(subject) : null;
  const hasTurned = matter !== null && memory.deals.every((known) => known.subject !== matter) && !memory.otherMatters.has(matter);
  return {
    deals: dealsAfter(memory.deals, filings, subject, externals),
    otherMatters: hasTurned ? new Set([...memory.otherMatters, matter]) : memory.otherMatters,
    lastAt: at,
    weWrote: memory.weWrote || direction === 'sent',
    filed: memory.filed || filings.length > 0,
    earlier: memory.earlier + 1,
    // Most answers stand where the email before them stands.
    records: keys.every((key) => memory.records.has(key)) ? memory.records : new Set([...memory.records, ...keys]),
  };
}

/** The deals of a conversation after an email: what it was filed under beyond doubt is the one that was written about last. */
function dealsAfter(
  deals: ConversationMemory['deals'],
  filings: readonly Filing[],
  subject: string | null,
  externals: readonly string[],
): ConversationMemory['deals'] {
  const last = deals.at(-1);
  const filed = filings.find(
    (filing) => filing.kind === 'deal' && (isCertainDeal(filing) || deals.some((known) => known.dealId === filing.id)),
  );
  if (!filed) return deals;
  const known = deals.find((item) => item.dealId === filed.id);
  const its: ConversationDeal = {
    dealId: filed.id,
    subject: known ? known.subject : subject === null ? null : matterOf(subject),
    parties: withParties(known?.parties, partiesOf(externals, filings)),
  };
  if (known && known === last && its.subject === known.subject && its.parties === known.parties) return deals;
  return [...deals.filter((item) => item !== known), its];
}

function withParties(known: ReadonlySet<string> | null | undefined, more: readonly string[]): ReadonlySet<string> | null {
  if (known === null) return null;
  if (known === undefined) return new Set(more);
  return more.every((party) => known.has(party)) ? known : new Set([...known, ...more]);
}

/**
 * The deal that an email takes over from its conversation: of those whose emails were with someone who takes part in it, or with their account,
 * the last under the same subject, else the last.
 *
 * @param isThere whether a deal is still on record
 */
export function inheritedDeal(
  { deals }: ConversationMemory,
  parties: readonly string[],
  subject: string,
  isThere: (dealId: number) => boolean,
): ConversationDeal | null {
  if (deals.length === 0) return null;
  let last: ConversationDeal | null = null;
  let matter: string | null = null;
  for (let at = deals.length - 1; at >= 0; at -= 1) {
    const known = deals[at];
    if (!known || !isThere(known.dealId) || (known.parties !== null && !parties.some((party) => known.parties?.has(party)))) continue;
    last ??= known;
    if (deals.length === 1 || known.subject === null) return last;
    matter ??= matterOf(subject);
    if (known.subject === matter) return known;
  }
  return last;
}
