import type { KeepOutEntry } from '@fulvet/core';
import type { DecideScope } from './decideRun';

/** The emails that an entry touches, kept-out ones included. */
export function scopeOf(entry: Pick<KeepOutEntry, 'kind' | 'value'>): Exclude<DecideScope, string> {
  return entry.kind === 'domain' ? { addresses: [], domains: [entry.value] } : { addresses: [entry.value], domains: [] };
}
