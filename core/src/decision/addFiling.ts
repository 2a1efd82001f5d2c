import type { Filing } from './types';

/** Files once under a record; the first rule that put it there keeps the word. */
export function addFiling(filings: Filing[], filing: Filing): void {
  for (const known of filings) if (known.id === filing.id && known.kind === filing.kind) return;
  filings.push(filing);
}
