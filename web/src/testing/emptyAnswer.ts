import type { z } from 'zod';

export const AT = '2026-05-04T10:00:00.000Z';

/** The smallest value that a schema of the contract takes: empty lists, zeros, null where it may be. */
export function emptyAnswer(schema: z.ZodType): unknown {
  const candidates = [undefined, null, [], {}, 0, 1, false, '', 'x', 'x@x.example', AT, '2026-05-04'];
  const { shape, options, element, keyType, valueType } = schema as {
    shape?: Record<string, z.ZodType>;
    options?: readonly unknown[];
    element?: z.ZodType;
    keyType?: { options?: readonly string[] };
    valueType?: z.ZodType;
  };
  if (element) return [];
  if (shape) {
    const filled = Object.entries(shape).map(([key, part]) => [key, emptyAnswer(part)] as const);
    return Object.fromEntries(filled.filter(([, value]) => value !== undefined));
  }
  if (keyType?.options && valueType) return Object.fromEntries(keyType.options.map((key) => [key, emptyAnswer(valueType)]));
  const found = candidates.find((candidate) => schema.safeParse(candidate).success);
  if (found !== undefined || schema.safeParse(undefined).success) return found;
  const [first] = options ?? [];
  if (typeof first === 'object' && first !== null) return emptyAnswer(first as z.ZodType);
  return first;
}

/** The smallest value of a shape, but for what is given. */
export const like = <S extends z.ZodType>(schema: S, more: Partial<z.input<S>> = {}): z.input<S> =>
  ({ ...(emptyAnswer(schema) as object), ...more }) as z.input<S>;
