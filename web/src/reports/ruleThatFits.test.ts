import { domainRow } from '@fulvet/contract';
import type { DomainRow } from '@fulvet/contract';
import { expect, test } from '@jest/globals';
import { ACTION_CHOICES } from '../rulebook/editor/leafChoices';
import { AT, like } from '../testing/emptyAnswer';
import { ruleThatFits } from './ruleThatFits';

const row = (counts: Partial<DomainRow>): DomainRow => like(domainRow, { domain: 'reef.example', emails: 10, last: AT, ...counts });

test.each<[string, Partial<DomainRow>, string, string]>([
  ['mostly kept out', { keptOut: 6 }, '/keep-out', 'letThrough'],
  ['mostly automatic', { machine: 8, unfiled: 8 }, '/keep-out', 'ignore'],
  ['mostly waiting', { waiting: 6 }, '/match', 'fileUnder'],
  ['unfiled, of an account', { unfiled: 9, accounts: ['Reef'] }, '/match', 'fileUnder'],
  ['unfiled, and we write there', { unfiled: 9, sent: 2 }, '/create', 'contact'],
  ['unfiled, and no one writes there', { unfiled: 9 }, '/keep-out', 'ignore'],
  ['filed', { filed: 10 }, '/keep-out', 'ignore'],
])('a rule for mail that is %s', (_, counts, path, does) => {
  const fits = ruleThatFits(row(counts));
  expect([fits.path, fits.does]).toEqual([path, does]);
  expect(
    Object.values(ACTION_CHOICES)
      .flat()
      .map((choice) => choice.value),
  ).toContain(fits.does);
});
