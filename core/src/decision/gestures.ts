import { RULES } from '../rulebook/schema';
import type { DecisionFacts, Gesture } from '../facts/types';
import type { Evidence, Filing, Question } from './types';

/** What people's gestures mean for the decision of an email. */
export interface GestureVerdict {
  /** Records that a person of the team put it under. */
  filings: readonly Filing[];
  /** Filing addresses that were used by someone outside, or that no record has: a person has to decide. */
  questions: readonly Question[];
  /** A person put it under a record, or asked for the rules to file it: it comes in. */
  takesIn: boolean;
  /** The rule that speaks first, or null. */
  rule: string | null;
  evidence: readonly Evidence[];
}

const NO_GESTURES: GestureVerdict = { filings: [], questions: [], takesIn: false, rule: null, evidence: [] };

/**
 * Weighs the gestures. A person of the team is followed; someone outside who uses a filing address, or one that no record has,
 * files nothing: the email waits.
 */
export function weighGestures(facts: DecisionFacts): GestureVerdict {
  if (facts.gestures.length === 0) return NO_GESTURES;
  const filings: Filing[] = [];
  const questions: Question[] = [];
  const evidence: Evidence[] = [];
  let takesIn = false;
  let rule: string | null = null;
  for (const gesture of facts.gestures) {
    evidence.push(evidenceOf(gesture));
    const { target, recordId } = gesture;
    if (!gesture.trusted || target === null) {
      const candidates = recordId === null ? [] : [{ id: recordId, name: gesture.recordName }];
      questions.push({
        about: 'filing',
        kind: target === null || target === 'rules' ? 'account' : target,
        candidates,
        domain: gesture.detail,
      });
      continue;
    }
    takesIn = true;
    rule ??= ruleOf(gesture);
    if (target !== 'rules' && recordId !== null) filings.push({ kind: target, id: recordId, rule: ruleOf(gesture) });
  }
  return { filings, questions, takesIn, rule, evidence };
}

const ruleOf = (gesture: Gesture): string => (gesture.via === 'address' ? RULES.filingAddress : RULES.filingFolder);

function evidenceOf({ via, detail, by, target, recordId, recordName, trusted }: Gesture): Evidence {
  return { fact: 'gesture', via, detail, by, target, record: recordName, ...(recordId === null ? {} : { recordId }), trusted };
}
