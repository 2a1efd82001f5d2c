import type { Refusal } from '@fulvet/server';
import { isRefusal } from '@fulvet/server';

/** What came of a step that the demo's own world never has refused. */
export function taken<T>(result: T | Refusal): T {
  if (isRefusal(result)) throw new Error(result.message);
  return result;
}
