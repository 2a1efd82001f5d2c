import type { z } from 'zod';
import type { Rulebook } from './schema';
import { rulebookSchema } from './schema';

const NEWEST = 3;
/** What versions 1 and 2 called the effects of rules and entries. */
const OLDER_EFFECTS: ReadonlyMap<unknown, string> = new Map([
  ['disregard', 'ignore'],
  ['track', 'takeIn'],
  ['leaveLoose', 'leaveToOwner'],
]);

/** Raises a document of an older format version to the newest; what it cannot read it leaves to the schema. */
export function migratedRulebook(document: unknown): unknown {
  if (!isObject(document) || (document.formatVersion !== 1 && document.formatVersion !== 2)) return document;
  // Version 1 had no rules; every default that it leaves out is filled in by the schema.
  const steps = Object.entries(document).map(([name, step]) => [name, isObject(step) ? withCurrentEffects(step) : step]);
  return { ...Object.fromEntries(steps), formatVersion: NEWEST };
}

function withCurrentEffects(step: Record<string, unknown>): Record<string, unknown> {
  const { rules, entries } = step;
  return {
    ...step,
    ...(Array.isArray(rules) && {
      rules: rules.map((rule: unknown) => (isObject(rule) && isObject(rule.then) ? { ...rule, then: current(rule.then, 'do') } : rule)),
    }),
    ...(Array.isArray(entries) && { entries: entries.map((entry: unknown) => (isObject(entry) ? current(entry, 'effect') : entry)) }),
  };
}

function current(from: Record<string, unknown>, name: string): Record<string, unknown> {
  const effect = OLDER_EFFECTS.get(from[name]);
  return effect === undefined ? from : { ...from, [name]: effect };
}

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** Reads a stored or given rulebook of any format version. */
export function readRulebook(document: unknown): z.ZodSafeParseResult<Rulebook> {
  return rulebookSchema.safeParse(migratedRulebook(document));
}

/** @throws when it is none */
export function parsedRulebook(document: unknown): Rulebook {
  return rulebookSchema.parse(migratedRulebook(document));
}
