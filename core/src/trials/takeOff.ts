import type { Direction, Outcome } from '../facts/types';
import type { Docket, StepEntry } from '../decision/types';
import type { Difference, TrialSummary } from './trial';
import { mostChanged } from './trial';

/** One email as a trial counted it. */
export interface CountedEmail {
  outcomeBefore: Outcome | null;
  outcomeAfter: Outcome;
  direction: Direction | null;
  /** The decision that the trial gave it. */
  docket: Docket;
  /** What the trial decided otherwise; null where nothing that anyone sees would change. */
  difference: Pick<Difference, 'seen' | 'won' | 'lost'> | null;
}

/** Emails of which a trial would change nothing, and which it counted alike. */
export interface CountedGroup {
  outcome: Outcome | null;
  direction: Direction | null;
  steps: Pick<StepEntry, 'step' | 'verdict' | 'rule'>[];
  emailIds: number[];
}

/** Gathers what a trial counts without noting a change, in few groups. */
export class CountedGroups {
  private readonly byKey = new Map<string, CountedGroup>();

  add(emailId: number, outcome: Outcome | null, direction: Direction | null, docket: CountedGroup['steps']): void {
    let key = `${outcome ?? ''}|${direction ?? ''}`;
    for (const { step, verdict, rule } of docket) key += `|${step}|${verdict}|${rule ?? ''}`;
    const known = this.byKey.get(key);
    if (known) known.emailIds.push(emailId);
    else
      this.byKey.set(key, {
        outcome,
        direction,
        steps: docket.map(({ step, verdict, rule }) => ({ step, verdict, rule })),
        emailIds: [emailId],
      });
  }

  all(): readonly CountedGroup[] {
    return [...this.byKey.values()];
  }
}

/**
 * A trial's numbers as they would be without these emails, which it counted: so that mail which is sealed afterwards shows in no sum.
 *
 * @returns new numbers; those given stay
 */
export function takeOffSummary(summary: TrialSummary, emails: readonly CountedEmail[]): TrialSummary {
  const left = structuredClone(summary);
  for (const email of emails) takeOff(left, email);
  left.records = left.records.filter(({ won, lost }) => won + lost > 0).sort(mostChanged);
  for (const counts of [left.matrix, left.steps])
    for (const [key, of] of Object.entries(counts)) if (Object.keys(of).length === 0) Reflect.deleteProperty(counts, key);
  return left;
}

function takeOff(left: TrialSummary, { outcomeBefore, outcomeAfter, direction, docket, difference }: CountedEmail): void {
  left.emails -= 1;
  if (direction !== null) left.byDirection[direction] -= 1;
  if (outcomeAfter === 'waiting') left.waiting -= 1;
  for (const entry of docket) {
    less(left.steps[entry.step], entry.verdict);
    if (entry.rule !== null) less(left.byRule, entry.rule);
    for (const said of entry.evidence) {
      if (said.fact !== 'created' || said.id >= 0) continue;
      left.createdCount -= 1;
      const at = left.created.findIndex((item) => item.kind === said.kind && item.via === said.via);
      if (at >= 0) left.created.splice(at, 1);
    }
  }
  less(left.matrix[outcomeBefore ?? 'undecided'], outcomeAfter);
  if (difference === null) return;
  left.changed -= 1;
  if (difference.seen === 'newly') left.newlySeen -= 1;
  if (difference.seen === 'no longer') left.noLongerSeen -= 1;
  for (const side of ['won', 'lost'] as const) {
    for (const key of difference[side]) {
      less(left[side], key.slice(0, key.indexOf(':')));
      const record = left.records.find((item) => item.key === key);
      if (record) record[side] -= 1;
    }
  }
}

function less(counts: Record<string, number> | undefined, key: string): void {
  const now = counts?.[key];
  if (counts === undefined || now === undefined) return;
  if (now > 1) counts[key] = now - 1;
  else Reflect.deleteProperty(counts, key);
}
