/** What a rule took, week by week: oldest first, the week in question last. */
export interface RuleWeeks {
  rule: string;
  counts: readonly number[];
}

export interface UnusualRule {
  rule: string;
  /** Emails that it took in the last week. */
  took: number;
  /** How many it would have taken, had it taken its usual share of the mail; rounded. */
  usual: number;
}

/** Fewer weeks before do not show what is usual. */
const FEWEST_WEEKS = 4;
/** Smaller differences are of no use to anyone, however rare they are. */
const LEAST_DIFFERENCE = 10;
/** By how many standard deviations it has to differ. */
const FAR = 4;

/**
 * The rules that took far more or far less in the last week than in the weeks before, the farthest first: both in number and as their share of
 * all mail. More mail alone makes no rule unusual, and neither does another rule that takes much. What rules take is expected to spread as
 * counts do (variance equal to the mean), or as it did in the weeks before where that was wider.
 *
 * @param totals all emails, week by week, as in `counts`
 */
export function unusualRules(rules: readonly RuleWeeks[], totals: readonly number[]): UnusualRule[] {
  const last = totals.length - 1;
  const total = totals[last] ?? 0;
  const before = totals.slice(0, last);
  if (before.filter((mail) => mail > 0).length < FEWEST_WEEKS || total === 0) return [];
  const found: (UnusualRule & { distance: number })[] = [];
  for (const { rule, counts } of rules) {
    const took = counts[last] ?? 0;
    const weeks = before.flatMap((mail, at) => (mail === 0 ? [] : [{ mail, count: counts[at] ?? 0 }]));
    const byNumber = expectedOf(
      weeks.map(({ count }) => ({ mail: 1, count })),
      1,
    );
    const byShare = expectedOf(weeks, total);
    const nearer = distanceOf(took, byNumber) < distanceOf(took, byShare) ? byNumber : byShare;
    const distance = distanceOf(took, nearer);
    if (distance >= FAR && Math.abs(took - nearer.usual) >= LEAST_DIFFERENCE)
      found.push({ rule, took, usual: Math.round(nearer.usual), distance });
  }
  return found.sort((first, second) => second.distance - first.distance).map(({ rule, took, usual }) => ({ rule, took, usual }));
}

interface Expected {
  usual: number;
  variance: number;
}

/** What a rule is expected to take of so much mail, by what it took of the mail of the weeks before. */
function expectedOf(weeks: readonly { mail: number; count: number }[], mail: number): Expected {
  const mailBefore = weeks.reduce((sum, week) => sum + week.mail, 0);
  const usual = (weeks.reduce((sum, week) => sum + week.count, 0) / mailBefore) * mail;
  const spread = weeks.reduce((sum, week) => sum + ((week.count / week.mail) * mail - usual) ** 2, 0) / (weeks.length - 1);
  // What is usual is itself known from so much mail only.
  return { usual, variance: Math.max(usual, spread, 1) + usual * (mail / mailBefore) };
}

const distanceOf = (took: number, { usual, variance }: Expected): number => Math.abs(took - usual) / Math.sqrt(variance);
