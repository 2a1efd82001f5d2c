/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import type { RecordSetup } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const setup: RecordSetup = {
  ownFields: {
    account: [{ key: 'region', label: 'Region', type: 'choice', choices: ['North', 'South'] }],
    contact: [],
    lead: [],
    deal: [{ key: 'berths', label: 'Berths', type: 'number', choices: [] }],
    own: [],
  },
  kinds: [],
  stages: [
    { id: 1, name: 'Enquiry', open: true },
    { id: 2, name: 'Won', open: false },
  ],
};
const answers = (more: Answers = {}): Answers => ({ ...workspace(), getRecordSetup: setup, ...more });

describe('own fields', () => {
  test('are added with their type and choices; of several new ones the right one goes', async () => {
    const page = openPage('/record-setup/account', answers({ setOwnFields: setup }));
    const add = await screen.findByRole('button', { name: 'Add a field' });
    const save = screen.getByRole<HTMLButtonElement>('button', { name: 'Save the fields' });
    for (const [label, choices] of [
      ['Season', 'Spring; Autumn'],
      ['Water', 'Fresh; Salt'],
    ] as const) {
      await page.user.click(add);
      expect(save.disabled).toBe(true);
      const [name] = screen.getAllByRole('textbox', { name: 'Name of the field' }).slice(-1);
      await page.user.type(name!, label);
      await page.choose(screen.getByRole('combobox', { name: `Type of ${label}` }), 'One of several');
      await page.user.type(screen.getByRole('textbox', { name: `Choices of ${label}` }), choices);
    }
    await page.user.click(screen.getByRole('button', { name: 'Remove Season' }));
    expect(screen.getByRole<HTMLInputElement>('textbox', { name: 'Choices of Water' }).value).toBe('Fresh; Salt');
    await page.user.click(save);
    await screen.findByText('The fields are saved.');
    expect(page.calls('setOwnFields')[0]?.body).toEqual({
      fields: [...(setup.ownFields.account ?? []), { label: 'Water', type: 'choice', choices: ['Fresh', 'Salt'] }],
    });
  });

  test('that go are named before they are lost', async () => {
    const refused = new Refused(409, 'in-use', 'A rule asks for Region. Change the rule first.');
    const page = openPage('/record-setup/account', answers({ setOwnFields: refused }));
    await page.user.click(await screen.findByRole('button', { name: 'Remove Region' }));
    expect(screen.getByText('Saving removes Region from every record, with all values.')).toBeTruthy();
    await page.user.click(screen.getByRole('button', { name: 'Save the fields' }));
    await screen.findByText('A rule asks for Region. Change the rule first.');
  });

  test('are those of the kind at hand; stages are for deals alone', async () => {
    const page = openPage('/record-setup/account', answers());
    await screen.findByDisplayValue('Region');
    expect(screen.queryByRole('region', { name: 'Stages' })).toBeNull();
    await page.user.click(screen.getByRole('link', { name: 'Deals' }));
    await screen.findByDisplayValue('Berths');
    expect(screen.getByRole('region', { name: 'Stages' })).toBeTruthy();
  });
});

test('stages are moved, added, closed and renamed as one', async () => {
  const page = openPage('/record-setup/deal', answers({ setDealStages: setup }));
  const stages = within(await screen.findByRole('region', { name: 'Stages' }));
  expect(stages.getByRole<HTMLButtonElement>('button', { name: 'Move Enquiry up' }).disabled).toBe(true);
  await page.user.click(stages.getByRole('button', { name: 'Add a stage' }));
  await page.user.type(stages.getByRole('textbox', { name: 'Name of stage 3' }), 'Lost');
  await page.user.click(stages.getAllByRole('checkbox')[2]!);
  await page.user.click(stages.getByRole('button', { name: 'Move Won up' }));
  await page.user.type(stages.getByRole('textbox', { name: 'Name of stage 2' }), ' received');
  await page.user.click(stages.getByRole('button', { name: 'Save the stages' }));
  await waitFor(() =>
    expect(page.calls('setDealStages')[0]?.body).toEqual({
      stages: [
        { id: 2, name: 'Won', open: false },
        { id: 1, name: 'Enquiry received', open: true },
        { id: null, name: 'Lost', open: false },
      ],
    }),
  );
});

test('a ready-made set fills in the stages, keeps those of the same name, and is saved only then', async () => {
  const page = openPage('/record-setup/deal', answers({ setDealStages: setup }));
  const stages = within(await screen.findByRole('region', { name: 'Stages' }));
  await page.choose(stages.getByRole('combobox', { name: 'Ready-made sets of stages' }), 'Renewing contracts');
  await page.choose(stages.getByRole('combobox', { name: 'Ready-made sets of stages' }), 'Selling projects');
  expect(stages.getAllByRole<HTMLInputElement>('textbox').map(({ value }) => value)).toEqual([
    'Asked',
    'Visited',
    'Quoted',
    'Negotiated',
    'Won',
    'Lost',
  ]);
  expect(page.calls('setDealStages')).toHaveLength(0);
  await page.user.click(stages.getByRole('button', { name: 'Save the stages' }));
  await waitFor(() => expect(page.calls('setDealStages')[0]?.body.stages).toContainEqual({ id: 2, name: 'Won', open: false }));
});
