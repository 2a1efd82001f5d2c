import type { RecordKind } from '@fulvet/contract';
import type { Concerned } from '../base/concerned';

/** The mail that records of a kind led to by what they said before, as `currentValues` gives it. */
export function ledTo(
  kind: RecordKind,
  stood: readonly (Readonly<Record<string, string>> | undefined)[],
): Required<Omit<Concerned, 'records' | 'renamed'>> {
  const all = (field: string): string[] => stood.flatMap((item) => item?.[field] ?? []).filter(Boolean);
  const lists = (field: string): string[] => all(field).flatMap((text) => text.split(';').filter(Boolean));
  return {
    addresses: [...new Set([...lists('emails'), ...lists('people')])],
    domains: [...new Set(lists('domains'))],
    codes: all('code'),
    companies: kind === 'account' ? all('name') : kind === 'deal' || kind === 'own' ? all('account') : [],
  };
}
