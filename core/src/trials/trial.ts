import type { RecordKind } from '../facts/recordKind';
import type { Decision, StepEntry } from '../decision/types';
import type { Direction, Outcome, Step } from '../facts/types';
import { STEPS } from '../facts/types';
import { reachOf, visibilityKey } from '../decision/visibility';

/** What stands of an email, as a trial compares with it. */
export interface Standing {
  outcome: Outcome | null;
  /** As {@link visibilityKey} says it. */
  visibility: string;
  /** Records it is filed under, as `kind:id`. */
  filings: readonly string[];
  /** The verdicts and rules of the steps. */
  steps: readonly Pick<StepEntry, 'step' | 'verdict' | 'rule'>[];
}

/** What a trial decides otherwise of one email. */
export interface Difference {
  outcomeBefore: Outcome | null;
  outcomeAfter: Outcome;
  /** As {@link visibilityKey} says it. */
  visibilityBefore: string;
  visibilityAfter: string;
  /** Whether colleagues would see more of it than before, or less. */
  seen: 'newly' | 'no longer' | null;
  /** The first step that says something else, or null where only records differ. */
  step: Step | null;
  won: string[];
  lost: string[];
}

/** Compares a decision with what stands; null when nothing that anyone sees would change. */
export function compareDecision(before: Standing, after: Decision): Difference | null {
  const filings = after.filings.map((filing) => `${filing.kind}:${filing.id}`);
  const won = filings.filter((filing) => !before.filings.includes(filing));
  const lost = before.filings.filter((filing) => !filings.includes(filing));
  const visibility = visibilityKey(after);
  const same = before.outcome === after.outcome && before.visibility === visibility && won.length === 0 && lost.length === 0;
  if (same) return null;
  const more = reachOf(visibility) - reachOf(before.visibility);
  return {
    outcomeBefore: before.outcome,
    outcomeAfter: after.outcome,
    visibilityBefore: before.visibility,
    visibilityAfter: visibility,
    seen: more > 0 ? 'newly' : more < 0 ? 'no longer' : null,
    step: firstDifferentStep(before, after),
    won,
    lost,
  };
}

function firstDifferentStep(before: Standing, after: Decision): Step | null {
  for (const step of STEPS) {
    const was = before.steps.find((item) => item.step === step);
    const is = after.docket.find((entry) => entry.step === step);
    if (was?.verdict !== is?.verdict || was?.rule !== is?.rule) return step;
  }
  return null;
}

/** Counts of one trial. Every number can be opened to its emails. */
export interface TrialSummary {
  emails: number;
  changed: number;
  /** Emails by what each step said, as `step` to `verdict` to number. */
  steps: Record<string, Record<string, number>>;
  /** From outcome to outcome; `undecided` where none stood. */
  matrix: Record<string, Record<string, number>>;
  /** Records that would be created. */
  created: { kind: 'contact' | 'lead' | 'account'; name: string; via: string; confidence: number; like: string | null }[];
  createdCount: number;
  /** Filings won and lost, by kind of record. */
  won: Record<string, number>;
  lost: Record<string, number>;
  /** Records with the most changes, best first. */
  records: { key: string; won: number; lost: number }[];
  /** Emails that colleagues would newly see, or no longer. */
  newlySeen: number;
  noLongerSeen: number;
  waiting: number;
  byRule: Record<string, number>;
  byDirection: Record<Direction, number>;
}

const MOST_LISTED = 200;

type OfRecord = TrialSummary['records'][number];
export const mostChanged = (first: OfRecord, second: OfRecord): number =>
  second.won + second.lost - (first.won + first.lost) || (first.key < second.key ? -1 : 1);

/** Adds decisions up to a summary. */
export class TrialCount {
  private readonly summary: TrialSummary = {
    emails: 0,
    changed: 0,
    steps: {},
    matrix: {},
    created: [],
    createdCount: 0,
    won: {},
    lost: {},
    records: [],
    newlySeen: 0,
    noLongerSeen: 0,
    waiting: 0,
    byRule: {},
    byDirection: { sent: 0, received: 0, internal: 0 },
  };
  private readonly byRecord = new Map<string, { won: number; lost: number }>();

  /** @param like finds a record that a created one may double, or null */
  constructor(private readonly like: (kind: RecordKind, name: string) => string | null) {}

  add(before: Pick<Standing, 'outcome'>, after: Decision, difference: Difference | null): void {
    const { summary } = this;
    summary.emails += 1;
    summary.byDirection[after.direction] += 1;
    if (after.outcome === 'waiting') summary.waiting += 1;
    for (const entry of after.docket) {
      count((summary.steps[entry.step] ??= {}), entry.verdict);
      if (entry.rule !== null) count(summary.byRule, entry.rule);
    }
    count((summary.matrix[before.outcome ?? 'undecided'] ??= {}), after.outcome);
    for (const creation of after.creations.filter((it) => it.id < 0)) this.addCreation(creation);
    if (difference) this.addDifference(difference);
  }

  /** Counts an email that stays kept out as it stands. */
  addSettled(before: Standing, direction: Direction | null): void {
    const { summary } = this;
    summary.emails += 1;
    if (direction !== null) summary.byDirection[direction] += 1;
    const [entry] = before.steps;
    if (entry) {
      count((summary.steps[entry.step] ??= {}), entry.verdict);
      if (entry.rule !== null) count(summary.byRule, entry.rule);
    }
    const outcome = before.outcome ?? 'undecided';
    count((summary.matrix[outcome] ??= {}), outcome);
  }

  result(): TrialSummary {
    const records = [...this.byRecord].map(([key, value]) => ({ key, ...value }));
    return { ...this.summary, records: records.sort(mostChanged).slice(0, MOST_LISTED) };
  }

  private addCreation(creation: Decision['creations'][number]): void {
    const { summary } = this;
    summary.createdCount += 1;
    if (summary.created.length >= MOST_LISTED) return;
    const via = creation.address ?? creation.domain ?? '';
    summary.created.push({
      kind: creation.kind,
      name: creation.name,
      via,
      confidence: creation.nameConfidence,
      like: this.like(creation.kind, creation.name),
    });
  }

  private addDifference(difference: Difference): void {
    const { summary } = this;
    summary.changed += 1;
    if (difference.seen === 'newly') summary.newlySeen += 1;
    if (difference.seen === 'no longer') summary.noLongerSeen += 1;
    for (const side of ['won', 'lost'] as const) {
      for (const key of difference[side]) {
        count(summary[side], key.slice(0, key.indexOf(':')));
        if (key.includes(':-')) continue;
        const known = this.byRecord.get(key) ?? { won: 0, lost: 0 };
        known[side] += 1;
        this.byRecord.set(key, known);
      }
    }
  }
}

function count(counts: Record<string, number>, key: string): void {
  counts[key] = (counts[key] ?? 0) + 1;
}
