import { useCallback } from 'react';
import { useAddressBar } from './useAddressBar';

/** The email whose decision is open at the right edge; kept in the address bar. */
export function useDocket(): { openId: number | null; open: (id: number) => void; close: () => void } {
  const [params, set] = useAddressBar();
  const text = params.get('docket');
  const openId = text !== null && /^\d+$/.test(text) ? Number(text) : null;
  return {
    openId,
    open: useCallback((id: number) => set({ docket: String(id) }), [set]),
    close: useCallback(() => set({ docket: '' }), [set]),
  };
}
