import { useCallback } from 'react';
import { useSearchParams } from 'react-router';

/** The email whose docket is open at the right edge; kept in the address bar. */
export function useDocket(): { openId: number | null; open: (id: number) => void; close: () => void } {
  const [params, setParams] = useSearchParams();
  const text = params.get('docket');
  const openId = text !== null && /^\d+$/.test(text) ? Number(text) : null;
  const set = useCallback(
    (id: number | null) =>
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          if (id === null) next.delete('docket');
          else next.set('docket', String(id));
          return next;
        },
        { replace: true },
      ),
    [setParams],
  );
  return { openId, open: set, close: useCallback(() => set(null), [set]) };
}
