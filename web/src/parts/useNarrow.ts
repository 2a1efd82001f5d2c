import { useSyncExternalStore } from 'react';

const NARROW = '(max-width: 639px)';

function hear(change: () => void): () => void {
  const query = window.matchMedia(NARROW);
  query.addEventListener('change', change);
  return () => query.removeEventListener('change', change);
}

/** Whether the window is as narrow as a phone, where rows of lists have two lines. */
export const useNarrow = (): boolean => useSyncExternalStore(hear, () => window.matchMedia(NARROW).matches);
