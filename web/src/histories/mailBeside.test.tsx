/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes } from '@fulvet/contract';
import type { EmailRow } from '@fulvet/contract';
import { beforeEach, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { emailRow, workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage } from '../testing/openPage';

let beside: EmailRow[];
beforeEach(() => {
  beside = [emailRow(5, 'About the gate'), emailRow(6, 'About the tide')];
});
const answers = (more: Answers = {}): Answers => ({
  ...workspace('rep'),
  getRecord: like(routes.getRecord.response, { kind: 'deal', id: 3, name: 'Storm gate' }),
  getMailBeside: () => ({ emails: beside }),
  repair: ({ body }) => {
    const filed = (body as { emails: number[] }).emails;
    beside = beside.filter(({ id }) => !filed.includes(id));
    return { id: 1, summary: 'Filed under Storm gate', changed: 1, created: [], offer: null };
  },
  ...more,
});
const NAME = 'Your mail with them, not filed here';

test('mail of one’s own that is not filed under the record is filed by a click, or by one key', async () => {
  const page = openPage('/records/deal/3', answers());
  const list = within(await screen.findByRole('region', { name: NAME }));
  list.getByText('Only you see this list.');
  await page.user.click(list.getByRole('button', { name: 'File here: About the gate' }));
  await waitFor(() => expect(list.queryByText('About the gate')).toBeNull());
  list.getByRole('button', { name: /^About the tide/ }).focus();
  await page.user.keyboard('f');
  await waitFor(() => expect(screen.queryByRole('region', { name: NAME })).toBeNull());
  expect(page.calls('repair').map(({ body }) => body)).toEqual([5, 6].map((id) => ({ emails: [id], file: [{ kind: 'deal', id: 3 }] })));
});

test('people of the deal’s mail are added to it by a click', async () => {
  const proposed = { kind: 'contact' as const, id: 8, name: 'Ola Berg', emails: 12 };
  let people: object[] = [];
  const page = openPage(
    '/records/deal/3',
    answers({
      proposeDealPeople: () => ({ people: people.length === 0 ? [proposed] : [] }),
      setDealPeople: ({ body }) => {
        ({ people } = body as { people: object[] });
        return like(routes.setDealPeople.response, { kind: 'deal', id: 3, name: 'Storm gate' });
      },
    }),
  );
  await screen.findByText('12 emails');
  await page.user.click(screen.getByRole('button', { name: 'Add Ola Berg to the deal' }));
  await waitFor(() => expect(screen.queryByText('12 emails')).toBeNull());
  expect(people).toEqual([{ kind: 'contact', id: 8, role: '' }]);
});
