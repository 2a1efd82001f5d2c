/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { deskCase, outsider, repairResult } from '@fulvet/contract';
import type { Outsider } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import type { BoundFunctions, queries } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers, OpenPage } from '../testing/openPage';
import { openPage } from '../testing/openPage';

const person = (address: string, more: Partial<Outsider>): Outsider =>
  like(outsider, { address, domain: address.slice(address.indexOf('@') + 1), nameConfidence: 1, record: null, ...more } as never);
const ida = person('ida@harbour.example', { name: 'Ida Brandt', title: 'Pilot', phones: ['+44 20 7946 0018'], company: 'Harbour' });
const shared = person('kim@reef.example', {
  name: 'Kim Aster',
  accounts: [
    { id: 3, name: 'Reef North' },
    { id: 4, name: 'Reef South' },
  ],
});
const robot = person('no-reply@harbour.example', { name: '', machine: true });
const known = person('ola@quay.example', { name: 'Ola', record: { kind: 'contact', id: 9, name: 'Ola Quist' } });

async function openDialog(people: Outsider[]): Promise<OpenPage & { dialog: BoundFunctions<typeof queries> }> {
  const question = like(deskCase, { key: 'a', about: 'deal', kind: 'deal', emails: [7], count: 1, candidates: [], subject: 'Gauges' });
  const answers: Answers = {
    ...workspace('rep'),
    getDesk: { cases: [question], left: 1, emails: 1, arriving: [] },
    outsiders: { people, subject: 'Gauges' },
    repair: like(repairResult, { id: 5, summary: 'Created records', changed: 1 }),
  };
  const page = openPage('/desk', answers);
  await page.user.click(await screen.findByRole('button', { name: /^Create records/ }));
  const dialog = within(await screen.findByRole('dialog'));
  await waitFor(() => expect(dialog.queryByText('Reading who takes part')).toBeNull());
  return { ...page, dialog };
}

describe('records from emails', () => {
  test('are filled in from what people wrote; machines become nothing', async () => {
    const { dialog, user, calls } = await openDialog([ida, robot]);
    expect(dialog.getByRole('combobox', { name: 'What no-reply@harbour.example becomes' }).textContent).toBe('Nothing');
    const name = dialog.getByRole<HTMLInputElement>('textbox', { name: 'Name of ida@harbour.example' });
    expect(name.value).toBe('Ida Brandt');
    await user.clear(name);
    await user.type(name, 'Ida M. Brandt');
    await user.type(dialog.getByRole('textbox', { name: 'A deal begins with it' }), 'Tide gauges');
    await user.click(dialog.getByRole('button', { name: 'Create 1 person and a deal' }));
    await waitFor(() => expect(calls('repair')).toHaveLength(1));
    expect(calls('repair')[0]?.body).toEqual({
      emails: [7],
      reach: 'conversation',
      own: null,
      people: [
        {
          kind: 'contact',
          address: ida.address,
          name: 'Ida M. Brandt',
          title: 'Pilot',
          phones: ida.phones,
          account: { name: 'Harbour', domain: 'harbour.example' },
        },
      ],
      deal: { name: 'Tide gauges', accountId: null, people: [ida.address, robot.address] },
    });
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  });

  test('join none of several companies by a guess; who is chosen is taken by its record', async () => {
    const { dialog, user, calls } = await openDialog([shared]);
    expect(dialog.getByText('Reef North and Reef South share the domain: say which')).toBeTruthy();
    const company = dialog.getByRole<HTMLInputElement>('combobox', { name: 'Company of kim@reef.example' });
    expect(company.value).toBe('');
    await user.type(company, 'Reef South');
    await user.click(dialog.getByRole('button', { name: 'Create 1 person' }));
    await waitFor(() => expect((calls('repair')[0]?.body as { people: object[] }).people[0]).toMatchObject({ account: { id: 4 } }));
  });

  test('become leads, or nothing; then there is nothing to create', async () => {
    const { dialog, choose, user, calls } = await openDialog([ida, known]);
    expect(dialog.getByRole('link', { name: 'Ola Quist' })).toBeTruthy();
    const become = dialog.getByRole('combobox', { name: 'What ida@harbour.example becomes' });
    await choose(become, 'Nothing');
    expect(dialog.getByRole<HTMLButtonElement>('button', { name: 'Create records' }).disabled).toBe(true);
    expect(dialog.getByRole<HTMLInputElement>('textbox', { name: 'Name of ida@harbour.example' }).readOnly).toBe(true);
    await choose(become, 'Lead');
    await user.click(dialog.getByRole('button', { name: 'Create 1 person' }));
    await waitFor(() => expect((calls('repair')[0]?.body as { people: object[] }).people[0]).toMatchObject({ kind: 'lead' }));
  });
});
