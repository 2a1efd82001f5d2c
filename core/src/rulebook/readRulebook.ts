import type { z } from 'zod';
import type { Rulebook } from './schema';
import { rulebookSchema } from './schema';

/** Raises a document of an older format version to the newest; what it cannot read it leaves to the schema. */
export function migratedRulebook(document: unknown): unknown {
  if (typeof document !== 'object' || document === null || !('formatVersion' in document)) return document;
  // Version 1 had no rules; every default that it leaves out is filled in by the schema.
  return document.formatVersion === 1 ? { ...document, formatVersion: 2 } : document;
}

/** Reads a stored or given rulebook of any format version. */
export function readRulebook(document: unknown): z.ZodSafeParseResult<Rulebook> {
  return rulebookSchema.safeParse(migratedRulebook(document));
}

/** @throws when it is none */
export function parsedRulebook(document: unknown): Rulebook {
  return rulebookSchema.parse(migratedRulebook(document));
}
