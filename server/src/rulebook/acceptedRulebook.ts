import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { Refusal } from '../base/refusal';
import { BadPattern, demandCheapPattern, patternsIn, readRulebook, RULE_STEPS } from '@fulvet/core';
import type { CompiledRulebook, Rulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Services } from '../base/services';
import { listsOf } from './lists/loadLists';
import { compiledFor } from './liveRulebook';

/** A rulebook that can be put to use. */
export interface AcceptedRulebook {
  rulebook: Rulebook;
  compiled: CompiledRulebook;
}

const addressListRow = z.object({ id: z.string() });

/**
 * Reads a rulebook that someone gave, and proves that everything in it can be put to use.
 *
 * @returns a refusal with the first thing that is wrong, and all of them by field
 */
export async function acceptedRulebook({ database }: Pick<Services, 'database'>, document: unknown): Promise<AcceptedRulebook | Refusal> {
  const parsed = readRulebook(document);
  if (!parsed.success) {
    const fields = Object.fromEntries(parsed.error.issues.slice(0, 20).map((issue) => [issue.path.join('.') || 'document', issue.message]));
    const [first] = Object.entries(fields);
    return refused(first ? `${first[0]}: ${first[1]}` : '', fields);
  }
  const rulebook = parsed.data;
  const twice = firstTwice([
    ...rulebook.keepOut.entries.map((entry) => entry.id),
    ...RULE_STEPS.flatMap((step) => rulebook[step].rules.map((rule) => rule.id)),
  ]);
  if (twice) return refused(`Two entries or rules have the id ${twice}. Give each its own.`);
  const rows = await rowsOf(database.worker, addressListRow, sql`SELECT id FROM address_lists`);
  const there = new Set(rows.map((row) => row.id));
  const missing = [...listsOf(rulebook)].find((id) => !there.has(id));
  if (missing !== undefined) return refused(`There is no address list ${missing}. Make it first, or choose another in the rule.`);
  try {
    for (const pattern of patternsIn(rulebook)) demandCheapPattern(pattern);
    return { rulebook, compiled: await compiledFor(database.worker, rulebook) };
  } catch (error) {
    if (error instanceof BadPattern) return refused(error.message);
    throw error;
  }
}

function refused(what: string, fields: Record<string, string> = {}): Refusal {
  return new Refusal('unfit', 'bad-rulebook', `The rulebook was not taken, and the one in force stays. ${what}`, fields);
}

function firstTwice(ids: readonly string[]): string | undefined {
  const seen = new Set<string>();
  return ids.find((id) => seen.size === seen.add(id).size);
}
