/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { domainRow, draftState, ruleAccuracy, suggestion } from '@fulvet/contract';
import type { SuggestionRow } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { NO_RULE_CHANGES, workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const machine: SuggestionRow = like(suggestion, {
  code: 'machine-domain',
  about: 'news.example',
  because: 'All 40 emails from news.example are machine mail.',
  step: 'keepOut',
  does: 'rule',
  account: null,
  rule: {
    name: 'news.example',
    note: '',
    when: { all: [{ fact: 'participant', which: 'any', test: { is: 'domain', value: 'news.example', exactly: false } }] },
    then: { do: 'keepOut' },
  },
  effect: { emails: 40, changed: 38, filed: 0, unfiled: 0, keptOut: 38, created: 0 },
});
const idle: SuggestionRow = {
  ...machine,
  about: 'idle.example',
  because: 'No one at idle.example ever answers.',
  effect: { ...machine.effect, changed: 0, keptOut: 0 },
};
const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  listSuggestions: { suggestions: [machine, idle] },
  listRuleAccuracy: { rules: [] },
  listDomainUse: {
    rows: [like(domainRow, { domain: 'reef.example', emails: 1200, machine: 300, filed: 600, unfiled: 600, last: AT })],
    total: 1,
  },
  ...more,
});

describe('tuning', () => {
  test('shows each suggestion with why and what a small trial says, one click from the draft', async () => {
    const page = openPage('/tuning', answers({ takeSuggestion: { ...like(draftState, { document: {} }), undo: null } }));
    await screen.findByText('All 40 emails from news.example are machine mail.');
    expect(screen.getByText(/38 emails would change: 38 kept out/)).toBeTruthy();
    expect(screen.getByText(/would change nothing now/)).toBeTruthy();
    await page.user.click(screen.getAllByRole('button', { name: 'Add to the draft' })[0]!);
    await screen.findByText('It is in the draft. Nothing has taken effect yet.');
    expect(page.calls('takeSuggestion')[0]?.body).toEqual({ code: 'machine-domain', about: 'news.example' });
  });

  test('shows the rule before it is added, and opens it in its step to be edited first', async () => {
    const page = openPage(
      '/tuning',
      answers({ countRule: () => ({ took: 38, of: 40, first: 38, read: 40, total: 40, examples: [] }), tryRule: NO_RULE_CHANGES }),
    );
    expect((await screen.findAllByText(/^Rule: When any external participant is at news\.example.*, keep/)).length).toBeGreaterThan(0);
    await page.user.click(screen.getAllByRole('button', { name: 'Edit first …' })[0]!);
    await waitFor(() => expect(page.address()).toBe('/keep-out'));
    await screen.findByRole('form', { name: 'New rule' });
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'Name' }).value).toBe('news.example');
    await waitFor(() => expect(page.calls('tryRule').at(-1)?.body).toMatchObject({ step: 'keepOut', rule: { then: { do: 'keepOut' } } }));
  });

  test('a rule about a domain is begun in the step, and with the effect, that fit its mail', async () => {
    const row = like(domainRow, { domain: 'reef.example', emails: 10, machine: 0, filed: 0, unfiled: 8, sent: 3, last: AT });
    const page = openPage(
      '/tuning',
      answers({
        listDomainUse: { rows: [row], total: 1 },
        tryRule: NO_RULE_CHANGES,
        countRule: () => ({ took: 8, of: 40, first: 8, read: 40, total: 40, examples: [] }),
      }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Create contacts …' }));
    await waitFor(() => expect(page.address()).toBe('/create?rule=reef.example&does=contact'));
    await waitFor(() => expect(page.calls('tryRule').at(-1)?.body).toMatchObject({ step: 'create', rule: { then: { do: 'contact' } } }));
  });

  test('a new domain of a company is added to its account at once, and that can be undone', async () => {
    const renamed: SuggestionRow = {
      ...machine,
      code: 'renamed',
      about: 'oriel-marine.example',
      because: '2 people of Harbour Oriel now write from oriel-marine.example.',
      does: 'addDomain',
      rule: null,
      account: { id: 10, name: 'Harbour Oriel' },
    };
    const page = openPage(
      '/tuning',
      answers({
        listSuggestions: { suggestions: [renamed] },
        takeSuggestion: { ...like(draftState, { document: {} }), undo: 12 },
        undo: { changed: 1, kept: [] },
      }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'Add the domain to the account' }));
    await screen.findByText('oriel-marine.example now belongs to Harbour Oriel.');
    await page.user.click(screen.getByRole('button', { name: 'Undo' }));
    await waitFor(() => expect(page.calls('undo')[0]?.params).toEqual({ id: '12' }));
  });

  test('says how often each rule was right, and each figure opens its emails', async () => {
    const rule = like(ruleAccuracy, { rule: 'match.only-open-deal', name: 'The only open deal', kinds: ['deal'], since: '2026-02-01' });
    openPage(
      '/tuning',
      answers({
        listRuleAccuracy: {
          rules: [
            { ...rule, filed: 2000, corrected: 1 },
            { ...rule, rule: 'match.person', name: 'The person by the address', kinds: ['contact', 'lead'], filed: 40 },
          ],
        },
      }),
    );
    const section = await screen.findByRole('region', { name: 'How often each rule was right' });
    const [, first, second] = await within(section).findAllByRole('row');
    expect(first?.textContent).toBe('The only open dealdeal2,000199.9 %');
    expect(second?.textContent).toBe('The person by the addresscontact, lead400100 %');
    expect(within(first!).getByRole('link', { name: '1' }).getAttribute('href')).toBe(
      '/all-mail?rule=match.only-open-deal&from=2026-02-01&corrected=yes',
    );
  });

  test('lists domains by volume, and what of them one wants to see', async () => {
    const page = openPage('/tuning', answers());
    const table = await screen.findByRole('table');
    expect(within(table).getByText('1,200')).toBeTruthy();
    expect(within(table).getByText('25 %')).toBeTruthy();
    await page.user.click(screen.getByRole('button', { name: 'Kept out and machine mail' }));
    await waitFor(() => expect(page.address()).toBe('/tuning?show=junk'));
    await page.user.type(screen.getByRole('textbox', { name: 'Find a domain' }), 'reef');
    await waitFor(() => expect(page.calls('listDomainUse').at(-1)?.query).toMatchObject({ show: 'junk', text: 'reef' }));
  });

  test('says so where nothing fits, and why where it failed', async () => {
    openPage('/tuning', answers({ listDomainUse: { rows: [], total: 0 } }));
    await screen.findByText('No domain fits what you chose.');
    openPage('/tuning', answers({ listDomainUse: new Refused(500, 'failed', 'The database is restarting.') }));
    await screen.findByText('The database is restarting.');
  });
});
