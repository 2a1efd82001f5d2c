import type { Participant } from '../message/emailFacts';
import type { CompiledRulebook } from '../rulebook/compile';
import { RULES } from '../rulebook/schema';
import type { DecisionFacts, Direction, Evidence, StopEntry } from './types';

/** What the first stop leaves for the next ones. */
export interface KeepOutVerdict {
  keptOut: boolean;
  /** External participants that still count. */
  remaining: Participant[];
  entry: StopEntry;
}

/**
 * The stop at which an email may be kept out.
 *
 * Mail among ourselves and machine mail go first. Then every external participant is looked up among the entries: one may
 * keep the whole email out; else the participant is disregarded, and the email is kept out only if nobody external is left.
 */
export function keepOut(facts: DecisionFacts, externals: Participant[], direction: Direction, rulebook: CompiledRulebook): KeepOutVerdict {
  const { source } = rulebook;
  if (direction === 'internal' && source.keepOut.internal) {
    return spoken(true, [], RULES.internal, [{ fact: 'direction', direction, external: 0 }]);
  }
  if (rulebook.keepsOutClass(facts.mailClass)) {
    const proof = facts.classProof ?? { header: '', value: '' };
    return spoken(true, externals, RULES.machineMail, [{ fact: 'mail class', mailClass: facts.mailClass, ...proof }]);
  }

  const evidence: Evidence[] = [];
  const remaining: Participant[] = [];
  let lastRule: string | null = null;
  for (const one of externals) {
    const hit = rulebook.entryFor(one.address, one.domain);
    if (!hit) {
      remaining.push(one);
      continue;
    }
    const said: Evidence = { fact: 'entry', entry: hit.id, value: hit.value, participant: one.address, effect: hit.effect };
    if (hit.effect === 'keepOut') return spoken(true, [], hit.id, [said]);
    lastRule = hit.id;
    evidence.push(said);
  }
  if (externals.length > 0 && remaining.length === 0) {
    evidence.push({ fact: 'nobody left', disregarded: externals.length });
    return spoken(true, [], lastRule, evidence);
  }
  return spoken(false, remaining, lastRule, evidence);
}

function spoken(keptOut: boolean, remaining: Participant[], rule: string | null, evidence: Evidence[]): KeepOutVerdict {
  return { keptOut, remaining, entry: { stop: 'keepOut', verdict: keptOut ? 'kept out' : 'passed', rule, evidence } };
}
