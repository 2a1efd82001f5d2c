import type { Condition } from './condition';
import { membersOf } from './condition';
import { RULE_STEPS } from './rule';
import type { Rulebook } from './schema';

/**
 * The rulebook with rules that name a record which was merged into another naming that one. The stored document keeps what was written: parting
 * the two again is enough.
 *
 * @param merged ids of the records that stayed, by `kind:id` of those that went into them
 */
export function withMergedRecords(rulebook: Rulebook, merged: ReadonlyMap<string, number>): Rulebook {
  if (merged.size === 0) return rulebook;
  const standing = (kind: string, id: number): number => {
    let at = id;
    for (let hops = 0; hops <= merged.size; hops += 1) {
      const next = merged.get(`${kind}:${at}`);
      if (next === undefined) return at;
      at = next;
    }
    return at;
  };
  const inCondition = (condition: Condition): Condition => {
    const group = membersOf(condition);
    if (group) return { [group.how]: group.members.map(inCondition) } as Condition;
    return 'fact' in condition && condition.fact === 'filedUnder'
      ? { ...condition, id: standing(condition.kind, condition.id) }
      : condition;
  };
  const changed = structuredClone(rulebook);
  for (const step of RULE_STEPS) {
    for (const rule of changed[step].rules) {
      rule.when = inCondition(rule.when);
      if (rule.then.do === 'fileUnder') rule.then.id = standing(rule.then.kind, rule.then.id);
    }
  }
  return changed;
}
