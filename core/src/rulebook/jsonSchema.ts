import { z } from 'zod';
import { rulebookSchema } from './schema';

/** The published JSON Schema of the rulebook file, as people write it: what has a default may be left out. */
export function rulebookJsonSchema(): object {
  return { ...z.toJSONSchema(rulebookSchema, { io: 'input', unrepresentable: 'any' }), title: 'Fulvet rulebook, format version 2' };
}
