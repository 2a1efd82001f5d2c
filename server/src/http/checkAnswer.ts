import type { RouteShape } from '@fulvet/contract';
import type { z } from 'zod';

/**
 * Holds an answer against what the contract promises: nothing missing, and nothing beside it.
 *
 * @throws when it differs: a bug of the handler, or of the contract
 */
export function checkAnswer(id: string, { response }: RouteShape, answer: unknown): void {
  if ('mediaType' in response) return;
  const sent: unknown = JSON.parse(JSON.stringify(answer ?? null));
  const read = (response as z.ZodType).safeParse(sent);
  if (!read.success) {
    const [issue] = read.error.issues;
    throw new Error(`The answer of ${id} is not as promised: ${issue?.path.map(String).join('.') ?? ''}: ${issue?.message ?? ''}`);
  }
  const beside = besidePromise(sent, read.data, '');
  if (beside !== null) throw new Error(`The answer of ${id} has more than was promised: ${beside}`);
}

/** The path of the first value that was sent and is not part of what was read; null where there is none. */
function besidePromise(sent: unknown, read: unknown, path: string): string | null {
  if (typeof sent !== 'object' || sent === null) return null;
  for (const [key, value] of Object.entries(sent)) {
    const at = path === '' ? key : `${path}.${key}`;
    if (typeof read !== 'object' || read === null || !(key in read)) return at;
    const found = besidePromise(value, (read as Record<string, unknown>)[key], at);
    if (found !== null) return found;
  }
  return null;
}
