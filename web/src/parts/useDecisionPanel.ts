import { useCallback } from 'react';
import { useAddressBar } from './useAddressBar';

/** The email whose decision is open at the right edge; kept in the address bar as `decision` (`docket` in older links). */
export function useDecisionPanel(): { openId: number | null; open: (id: number) => void; close: () => void } {
  const [params, set] = useAddressBar();
  const text = params.get('decision') ?? params.get('docket');
  const openId = text !== null && /^\d+$/.test(text) ? Number(text) : null;
  return {
    openId,
    open: useCallback((id: number) => set({ decision: String(id), docket: '' }), [set]),
    close: useCallback(() => set({ decision: '', docket: '' }), [set]),
  };
}
