import { useCallback } from 'react';
import { useSearchParams } from 'react-router';

/** View state in the address bar: what stands there, and a way to set some of it. An empty value takes its name away. */
export function useAddressBar(): [URLSearchParams, (values: Readonly<Record<string, string>>) => void] {
  const [params, setParams] = useSearchParams();
  const set = useCallback(
    (values: Readonly<Record<string, string>>) =>
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          for (const [name, value] of Object.entries(values)) {
            if (value) next.set(name, value);
            else next.delete(name);
          }
          return next;
        },
        { replace: true },
      ),
    [setParams],
  );
  return [params, set];
}
