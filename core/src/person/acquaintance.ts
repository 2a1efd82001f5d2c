export type Acquaintance = 'well' | 'somewhat' | 'hardly';

const MONTH = 30;

/**
 * How well two people know each other by their emails: both must have written for more than "hardly", and what lies long ago counts less.
 *
 * @param daysAgo days since the last email between them
 */
export function acquaintanceOf({ sent, received, daysAgo }: { sent: number; received: number; daysAgo: number }): Acquaintance {
  const bothWays = Math.min(sent, received);
  // Half of it fades in half a year.
  const weight = bothWays * 0.5 ** (Math.max(0, daysAgo) / (6 * MONTH));
  if (weight >= 4) return 'well';
  return weight >= 0.75 ? 'somewhat' : 'hardly';
}
