import { expect, test } from '@jest/globals';
import { accountsLike, looksLike } from './companySuggestions';

const random = (
  (seed: number) => () =>
    (seed = (seed * 48271) % 2147483647) / 2147483647
)(20261204);
const oneOf = <T>(all: readonly T[]): T => all[Math.floor(random() * all.length)]!;

const WORDS = ['harbour', 'oriel', 'north', 'gauge', 'quay', 'pilot', 'tide'];

/** A label of one to three words, now and then with a letter more, less or another. */
function label(): string {
  const written = Array.from({ length: 1 + Math.floor(random() * 3) }, () => oneOf(WORDS)).join(random() < 0.7 ? '-' : '');
  if (random() < 0.6) return written;
  const at = Math.floor(random() * written.length);
  return `${written.slice(0, at)}${oneOf(['x', '', 'y'])}${written.slice(at + Math.floor(random() * 2))}`;
}

test('accounts that a domain looks like are the same by keys as by comparing every pair', () => {
  const accounts = Array.from({ length: 250 }, (_, id) => ({
    id,
    name: random() < 0.5 ? label().replace(/-/g, ' ') : `Company ${id}`,
    domains: Array.from({ length: Math.floor(random() * 3) }, () => `${label()}.example`),
  }));
  const like = accountsLike(accounts);
  let found = 0;
  for (let round = 0; round < 400; round += 1) {
    const domain = `${label()}.example`;
    const ids = (those: { id: number }[]): number[] => those.map(({ id }) => id).sort((first, second) => first - second);
    const wanted = ids(accounts.filter((account) => looksLike(domain, account)));
    expect({ domain, found: ids(like(domain)) }).toEqual({ domain, found: wanted });
    found += wanted.length;
  }
  expect(found).toBeGreaterThan(300);
});
