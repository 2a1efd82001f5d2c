import { domainOf } from '../address/address';
import type { RecordKind } from '../facts/recordKind';
import type { Action, Rule, RuleStep } from '../rulebook/rule';

/** One email that people filed under a record, or took off one, by hand. */
export interface RepairedEmail {
  does: 'file' | 'takeOff';
  /** Null: every record. */
  kind: RecordKind | null;
  recordId: number | null;
  recordName: string;
  /** Addresses of the external people who take part. */
  externals: readonly string[];
}

/** A rule that would have done what people keep doing by hand. */
export interface RuleOffer {
  because: string;
  step: RuleStep;
  rule: Pick<Rule<Action<RuleStep>>, 'name' | 'note' | 'when' | 'then'>;
}

/** Repairs alike before a rule is offered. */
export const REPAIRS_FOR_OFFER = 3;

/**
 * The rule that would have done these repairs, all of one deed about one record; null when they are too few, or when the emails have
 * no one outside in common.
 */
export function ruleOffer(repaired: readonly RepairedEmail[], isPublicProvider: (domain: string) => boolean): RuleOffer | null {
  const [first] = repaired;
  if (!first || repaired.length < REPAIRS_FOR_OFFER) return null;
  const who = inCommon(
    repaired.map((email) => email.externals),
    isPublicProvider,
  );
  const action = actionFor(first);
  if (who === null || action === null) return null;
  const { words, step, then } = action;
  const test = who.includes('@') ? ({ is: 'address', value: who } as const) : ({ is: 'domain', value: who, exactly: false } as const);
  return {
    because: `${repaired.length} emails with ${who} were ${words} by hand.`,
    step,
    rule: { name: `${who} ${words}`, note: 'What people did by hand.', when: { fact: 'participant', which: 'any', test }, then },
  };
}

/** Where different people of one company take part, the company's domain; else the one address that all have in common. */
function inCommon(externals: readonly (readonly string[])[], isPublicProvider: (domain: string) => boolean): string | null {
  const [first = [], ...others] = externals;
  const address = first.find((value) => others.every((other) => other.includes(value)));
  const everyone = new Set(externals.flat());
  const domain = first
    .map(domainOf)
    .find((value) => !isPublicProvider(value) && others.every((other) => other.some((it) => domainOf(it) === value)));
  const peopleThere = [...everyone].filter((value) => domainOf(value) === domain).length;
  if (domain !== undefined && (address === undefined || peopleThere > 1)) return domain;
  return address ?? null;
}

function actionFor({ does, kind, recordId, recordName }: RepairedEmail): { words: string; step: RuleStep; then: Action<RuleStep> } | null {
  if (does === 'file') {
    if (kind === null || recordId === null) return null;
    return { words: `filed under ${recordName}`, step: 'match', then: { do: 'fileUnder', kind, id: recordId, name: recordName } };
  }
  if (kind === null) return { words: 'taken off every record', step: 'takeIn', then: { do: 'leaveToOwner' } };
  if (kind === 'deal') return { words: 'taken off deals', step: 'match', then: { do: 'neverDeals' } };
  return kind === 'account' ? { words: 'taken off accounts', step: 'match', then: { do: 'neverAccounts' } } : null;
}
