/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { emailRow } from '../testing/answers';
import { openPage, Refused } from '../testing/openPage';
import { rule, withRules, keepsDraft, counted, rulesPut } from '../testing/draftInHand';

describe('the editor of a rule', () => {
  const addCondition = async (page: ReturnType<typeof openPage>, name: RegExp): Promise<void> => {
    await page.user.click(await screen.findByRole('button', { name: 'Add a condition' }));
    await page.user.click(screen.getByRole('option', { name }));
  };

  test('writes a new rule by mouse and keyboard, while what it takes of past mail follows', async () => {
    const page = openPage('/take-in', {
      ...keepsDraft(withRules()),
      countRule: ({ body }) =>
        JSON.stringify(body.rule).includes('invoice')
          ? counted(7, 40, { first: 5, examples: [emailRow(9, 'Invoice 12')] })
          : counted(30, 40),
      tryRule: {
        tried: 7,
        changed: 3,
        moves: [
          { before: 'filed', after: 'unfiled', emails: 2 },
          { before: 'filed', after: 'filed', emails: 1 },
        ],
        newlySeen: 0,
        noLongerSeen: 2,
        created: 1,
        examples: [{ email: emailRow(9, 'Invoice 12'), before: 'filed', after: 'unfiled', seen: 'no longer' }],
      },
    });
    await page.user.click(await screen.findByRole('button', { name: 'Add a rule' }));
    await screen.findByText(/Add a condition\. Which past emails the rule applies to/);
    expect(page.calls('countRule')).toEqual([]);
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Add to the draft' }).disabled).toBe(true);
    await page.user.click(screen.getByRole('button', { name: 'Add a condition' }));
    await page.user.keyboard('{ArrowDown}');
    await page.user.click(screen.getByRole('option', { name: /the subject/ }));
    const words = await screen.findByRole('textbox', { name: /words|text|subject/i });
    await page.user.clear(words);
    await page.user.type(words, 'invoice');
    await screen.findByText('7 past emails');
    expect(screen.getByText(/2 of them are decided by an earlier rule/)).toBeTruthy();
    await screen.findByText(/of these 7 emails; 2 emails would be seen by fewer, 1 record would be created/);
    const moves = within(screen.getByRole('list', { name: 'Outcomes that would change' })).getAllByRole('listitem');
    expect(moves.map((item) => item.textContent)).toEqual(['2 filed unfiled', '1 filed under other records, or seen by others']);
    expect(screen.getByText('Invoice 12')).toBeTruthy();
    await page.user.type(screen.getByRole('textbox', { name: 'Name' }), 'Invoices');
    await page.user.type(screen.getByRole('textbox', { name: 'Why it exists' }), 'They are for the books.');
    await page.user.click(screen.getByRole('button', { name: 'Add to the draft' }));
    await waitFor(() => expect(rulesPut(page)).toHaveLength(1));
    expect(rulesPut(page)[0]).toMatchObject({
      name: 'Invoices',
      note: 'They are for the books.',
      when: {
        all: [{ fact: 'subject', test: { contains: ['invoice'] } }],
      },
    });
  });

  test('says on how much of past mail its number rests, and goes on counting', async () => {
    let asked = 0;
    const page = openPage('/take-in', {
      ...keepsDraft(withRules(rule('press', 'Press'))),
      countRule: ({ body }) => {
        expect(body.partly).toBe(true);
        asked += 1;
        return asked === 1 ? counted(3, 1500, { read: 1500, total: 1_000_000 }) : counted(4200, 1_000_000);
      },
    });
    await page.user.click(await screen.findByRole('button', { name: /at press.example/ }));
    await screen.findByText(/So far, the newest 1,500 of 1,000,000 emails have been read/);
    await screen.findByText('4,200 past emails', undefined, { timeout: 4000 });
    expect(screen.queryByText(/So far/)).toBeNull();
  });

  test('is closed by Escape and changes nothing', async () => {
    const page = openPage('/take-in', keepsDraft(withRules(rule('press', 'Press'))));
    (await screen.findByRole('listitem', { name: /^Rule 1/ })).focus();
    await page.user.keyboard('{Enter}');
    await page.user.type(await screen.findByRole('textbox', { name: 'Name' }), ' and more');
    await page.user.keyboard('{Escape}');
    await screen.findByRole('listitem', { name: /^Rule 1: Press\b/ });
    expect(page.calls('putDraft')).toEqual([]);
  });

  test('keeps what was written where the server does not take it, and names the place', async () => {
    const page = openPage('/take-in', {
      ...keepsDraft(withRules()),
      putDraft: new Refused(422, 'bad-rulebook', 'takeIn.rules.0.when: a rule needs a condition.'),
    });
    await page.user.click(await screen.findByRole('button', { name: 'Add a rule' }));
    await addCondition(page, /the subject/);
    await page.user.type(await screen.findByRole('textbox', { name: 'Name' }), 'Kept');
    await page.user.click(screen.getByRole('button', { name: 'Add to the draft' }));
    await screen.findByText('takeIn.rules.0.when: a rule needs a condition.');
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'Name' }).value).toBe('Kept');
  });

  test('cannot be kept while what it says cannot be counted', async () => {
    const page = openPage('/take-in', {
      ...keepsDraft(withRules()),
      countRule: new Refused(422, 'bad-rulebook', 'The pattern cannot be read: a bracket is not closed.'),
    });
    await page.user.click(await screen.findByRole('button', { name: 'Add a rule' }));
    await addCondition(page, /the subject/);
    await screen.findByText('The pattern cannot be read: a bracket is not closed.');
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Add to the draft' }).disabled).toBe(true);
  });

  test('is prefilled from the address bar, as “make a rule of this” does', async () => {
    const page = openPage('/take-in?rule=talent.example', keepsDraft(withRules()));
    await screen.findByText('12 past emails');
    expect(page.calls('countRule').at(-1)?.body.rule.when).toEqual({
      all: [{ fact: 'participant', which: 'any', test: { is: 'domain', value: 'talent.example', exactly: false } }],
    });
    await page.user.click(screen.getByRole('button', { name: 'Add to the draft' }));
    await waitFor(() => expect(page.address()).toBe('/take-in'));
  });

  test('nests conditions and takes them away', async () => {
    const page = openPage('/take-in', keepsDraft(withRules(rule('press', 'Press'))));
    (await screen.findByRole('listitem', { name: /^Rule 1/ })).focus();
    await page.user.keyboard('{Enter}');
    await page.user.click(await screen.findByRole('button', { name: 'Add a condition' }));
    await page.user.click(screen.getByRole('option', { name: /a group of conditions/ }));
    await waitFor(() => expect(screen.getAllByRole('button', { name: /^How many of them must be true/ })).toHaveLength(2));
    await page.user.click(screen.getAllByRole('button', { name: 'Remove this condition' })[0]!);
    await page.user.click(screen.getByRole('button', { name: 'Keep in the draft' }));
    await waitFor(() =>
      expect(rulesPut(page)[0]?.when).toEqual({ all: [{ any: [{ fact: 'participant', which: 'any', test: { is: 'unknown' } }] }] }),
    );
  });
});
