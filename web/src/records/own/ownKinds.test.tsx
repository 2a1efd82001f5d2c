/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { CASES, deskCase, outsider, ownKind, recordRow, repairResult } from '@fulvet/contract';
import type { RecordSetup } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../../testing/answers';
import { like } from '../../testing/emptyAnswer';
import type { Answers } from '../../testing/openPage';
import { openPage, Refused } from '../../testing/openPage';

const cases = like(ownKind, { ...CASES, id: 4, key: 'case' } as never);
const setup = (kinds = [cases]): RecordSetup => ({
  ownFields: {
    account: [],
    contact: [],
    lead: [],
    deal: [],
    own: [{ key: 'urgency', label: 'Urgency', type: 'text', choices: [], of: 'case' }],
  },
  stages: [],
  kinds,
});
const team = { id: 9, name: 'Support', members: [] };
const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  getRecordSetup: setup(),
  listTeams: { teams: [team] } as never,
  ...more,
});

describe('a kind of records', () => {
  test('that is ready to use is switched on by one click', async () => {
    const page = openPage('/record-setup/own?of=new', answers({ getRecordSetup: setup([]), createOwnKind: setup() }));
    await page.user.click(await screen.findByRole('button', { name: 'Switch on cases' }));
    await waitFor(() => expect(page.calls('createOwnKind')[0]?.body).toEqual(CASES));
    await screen.findByText('Saved.');
  });

  test('is defined: name, prefix, icon, states, teams', async () => {
    const page = openPage('/record-setup/own?of=new', answers({ createOwnKind: setup() }));
    const form = within(await screen.findByRole('region', { name: 'Kind of records' }));
    await page.user.type(form.getByRole('textbox', { name: 'Name of one' }), 'Project');
    await page.user.type(form.getByRole('textbox', { name: 'Name of several' }), 'Projects');
    await page.user.type(form.getByRole('textbox', { name: 'Numbers begin with' }), 'proj');
    await page.user.click(form.getByRole('radio', { name: 'Truck' }));
    await page.user.click(form.getByRole('button', { name: 'Add a state' }));
    await page.user.type(form.getByRole('textbox', { name: 'Name of state 3' }), 'On hold');
    await page.user.click(form.getByRole('button', { name: 'Move On hold up' }));
    await page.user.click(form.getByRole('checkbox', { name: 'Support' }));
    await page.user.click(form.getByRole('button', { name: 'Define the kind' }));
    await waitFor(() =>
      expect(page.calls('createOwnKind')[0]?.body).toMatchObject({
        singular: 'Project',
        plural: 'Projects',
        icon: 'truck',
        states: [
          { name: 'Open', open: true },
          { name: 'On hold', open: true },
          { name: 'Closed', open: false },
        ],
        seenByTeams: [9],
      }),
    );
  });

  test('says what is missing before it is sent, and what the server has against it', async () => {
    const refused = new Refused(409, 'taken', 'There is a kind “Project” already. Choose another name.');
    const page = openPage('/record-setup/own?of=new', answers({ createOwnKind: refused }));
    const form = within(await screen.findByRole('region', { name: 'Kind of records' }));
    await page.user.click(form.getByRole('button', { name: 'Define the kind' }));
    expect((await form.findAllByText(/needs a name/)).length).toBeGreaterThan(0);
    expect(page.calls('createOwnKind')).toEqual([]);
    await page.user.type(form.getByRole('textbox', { name: 'Name of one' }), 'Project');
    await page.user.type(form.getByRole('textbox', { name: 'Name of several' }), 'Projects');
    await page.user.type(form.getByRole('textbox', { name: 'Numbers begin with' }), 'PROJ');
    await page.user.click(form.getByRole('button', { name: 'Define the kind' }));
    await form.findByText(/There is a kind “Project” already/);
  });

  test('tells the server which state was renamed', async () => {
    const page = openPage('/record-setup/own?of=case', answers({ editOwnKind: setup() }));
    const name = await screen.findByRole('textbox', { name: 'Name of state 1' });
    await page.user.clear(name);
    await page.user.type(name, 'Fresh');
    await page.user.click(screen.getByRole('button', { name: 'Save the kind' }));
    await waitFor(() => expect(page.calls('editOwnKind')).toHaveLength(1));
    const { states } = page.calls('editOwnKind')[0]?.body as { states: object[] };
    expect(states.slice(0, 2)).toEqual([
      { name: 'Fresh', open: true, was: 'New' },
      { name: 'In work', open: true },
    ]);
    expect(screen.getByDisplayValue('Urgency')).toBeTruthy();
  });

  test('has a state renamed twice: the second time by the name that it has then', async () => {
    const renamed = setup([{ ...cases, states: [{ name: 'Fresh', open: true }, ...cases.states.slice(1)] }]);
    const page = openPage('/record-setup/own?of=case', answers({ editOwnKind: renamed }));
    const rename = async (name: string): Promise<void> => {
      const field = await screen.findByRole('textbox', { name: 'Name of state 1' });
      await page.user.clear(field);
      await page.user.type(field, name);
      await page.user.click(screen.getByRole('button', { name: 'Save the kind' }));
    };
    await screen.findByDisplayValue('New');
    page.answer({ getRecordSetup: renamed });
    await rename('Fresh');
    await screen.findByText('Saved.');
    await rename('Just in');
    await waitFor(() => expect(page.calls('editOwnKind')).toHaveLength(2));
    expect(page.calls('editOwnKind')[1]?.body.states[0]).toEqual({ name: 'Just in', open: true, was: 'Fresh' });
  });

  test('stays where it has records', async () => {
    const inUse = new Refused(409, 'in-use', 'There are 6 records of this kind.');
    const page = openPage('/record-setup/own?of=case', answers({ removeOwnKind: inUse }));
    await page.user.click(await screen.findByRole('button', { name: 'Remove the kind case' }));
    await screen.findByText(/There are 6 records of this kind/);
  });
});

describe('its records', () => {
  const leak = like(recordRow, {
    id: 3,
    kind: 'own',
    of: 'case',
    code: 'CASE-3',
    name: 'The gauge leaks',
    stage: 'New',
    open: true,
  } as never);

  test('are listed behind the other kinds, the newest first, and filtered by state', async () => {
    const page = openPage('/records/account', answers({ listRecords: { records: [leak], total: 1 } }));
    await page.user.click(await screen.findByRole('link', { name: 'Cases' }));
    await screen.findByText('1 case');
    expect(screen.getByRole('link', { name: 'Cases' }).getAttribute('aria-current')).toBe('page');
    const asked = page.calls('listRecords').at(-1)?.query;
    expect(asked).toMatchObject({ of: 'case', sort: 'created', descending: 'yes' });
    await page.choose(screen.getByRole('combobox', { name: 'State' }), 'Solved');
    await waitFor(() => expect(page.calls('listRecords').at(-1)?.query).toMatchObject({ of: 'case', stage: 'Solved' }));
  });

  test('begin with an email: named after its subject, with those who take part', async () => {
    const ida = like(outsider, {
      address: 'ida@harbour.example',
      name: 'Ida',
      record: { kind: 'contact', id: 1, name: 'Ida' },
      accounts: [{ id: 8, name: 'Harbour' }],
    } as never);
    const question = like(deskCase, { key: 'a', about: 'deal', kind: 'deal', emails: [7], count: 1, candidates: [], subject: 'Leak' });
    const page = openPage('/desk', {
      ...answers(),
      getDesk: { cases: [question], left: 1, emails: 1, arriving: [] },
      outsiders: { people: [ida], subject: 'The gauge leaks' },
      repair: like(repairResult, { id: 5, summary: 'Created records', changed: 1 }),
    });
    await page.user.click(await screen.findByRole('button', { name: /^Create records/ }));
    const dialog = within(await screen.findByRole('dialog'));
    await page.choose(await dialog.findByRole('combobox', { name: 'Another record begins' }), 'Case');
    expect(dialog.getByRole<HTMLInputElement>('textbox', { name: 'Its name' }).value).toBe('The gauge leaks');
    await page.user.click(dialog.getByRole('button', { name: 'Create a case' }));
    await waitFor(() => expect(page.calls('repair')).toHaveLength(1));
    expect(page.calls('repair')[0]?.body).toMatchObject({
      reach: 'conversation',
      deal: null,
      own: { kind: 'case', name: 'The gauge leaks', accountId: 8, people: ['ida@harbour.example'] },
    });
  });
});
