/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { eachProposal, emailRow, outsider, ownKind, recordSetup, repairResult, teamMember } from '@fulvet/contract';
import type { EachProposal, Outsider } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers, OpenPage } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';
import type { EachValues } from './eachRequest';
import { eachRequest, rowOf } from './eachRequest';

const person = (address: string, more: Partial<Outsider> = {}): Outsider =>
  like(outsider, { address, name: '', domain: address.slice(address.indexOf('@') + 1), record: null, ...more } as never);
const proposal = (key: string, more: Partial<EachProposal>): EachProposal =>
  like(eachProposal, { key, name: key, emails: 1, people: [person(key)], account: null, alike: [], unfit: null, ...more } as never);
const ida = person('ida@harbour.example', { name: 'Ida Brandt', record: { kind: 'contact', id: 9, name: 'Ida Brandt' } });
const kim = person('kim@reef.example', { name: 'Kim Aster', company: 'Reef Line', title: 'Pilot', phones: ['+44 20 7946 0018'] });
const info = person('info@reef.example', { company: 'Reef Line', role: true });
const harbour = proposal('account:3', {
  name: 'Harbour Oriel',
  people: [ida],
  account: { id: 3, name: 'Harbour Oriel' },
  alike: [{ kind: 'deal', id: 7, name: 'Inner basin', detail: 'Quoted', because: 'is open with them' }],
});
const reef = proposal('reef.example', { name: 'Reef Line', people: [kim, info], domain: 'reef.example' });
const robot = proposal('no-reply@x.example', { unfit: 'an automatic sender' });
const values = (more: Partial<EachValues> = {}): EachValues => ({
  rows: [harbour, reef, robot].map(rowOf),
  stage: 'Asked',
  owner: 'rep@quillmere.example',
  suffix: 'autumn',
  withOthers: true,
  ...more,
});
const newAccount = { name: 'Reef Line', domain: 'reef.example' };
const kimAsContact = { kind: 'contact', address: kim.address, name: 'Kim Aster', title: 'Pilot', phones: kim.phones, account: newAccount };

describe('what is sent of the proposals', () => {
  test('deals: what may be there is left alone unless it is chosen; unknown people come first', () => {
    const sent = eachRequest([1, 2], 'deal', null, [harbour, reef, robot], values());
    expect(sent).toEqual({
      emails: [1, 2],
      reach: 'conversation',
      people: [kimAsContact],
      each: {
        kind: 'deal',
        values: { owner: 'rep@quillmere.example', stage: 'Asked' },
        entries: [
          {
            addresses: [kim.address, info.address],
            values: { name: 'Reef Line autumn', people: `${kim.address};${info.address}` },
            newAccount,
          },
        ],
      },
    });
    const rows = [
      { fate: 'deal:7' as const, name: 'Harbour Oriel' },
      { fate: 'nothing' as const, name: '' },
      { fate: 'nothing' as const, name: '' },
    ];
    const filed = eachRequest([1], 'deal', null, [harbour, reef, robot], values({ rows }));
    expect(filed.each?.entries).toEqual([{ addresses: [ida.address], file: { kind: 'deal', id: 7 } }]);
    expect(filed.people).toEqual([]);
  });

  test('contacts, leads and accounts have what is known of them; a lead makes no account', () => {
    const of = (kind: 'contact' | 'lead' | 'account') =>
      eachRequest([1], kind, null, [{ ...reef, people: [kim] }], values({ rows: [rowOf(reef)], stage: '', owner: '' })).each?.entries[0];
    const known = { name: 'Reef Line', emails: kim.address, title: 'Pilot', phone: '+44 20 7946 0018' };
    expect(of('contact')).toEqual({ addresses: [kim.address], values: known, newAccount });
    expect(of('lead')).toEqual({ addresses: [kim.address], values: { ...known, company: 'Reef Line' } });
    expect(of('account')).toEqual({ addresses: [kim.address], values: { name: 'Reef Line', domains: 'reef.example' } });
  });

  test('records of an own kind have people and account only where their kind does', () => {
    const kind = like(ownKind, { key: 'case', hasPeople: false, hasAccount: false } as never);
    const sent = eachRequest([1], 'own', kind, [harbour], values({ rows: [{ fate: 'new', name: 'Gauge' }], suffix: '', owner: '' }));
    expect(sent.each).toEqual({
      kind: 'own',
      values: { kind: 'case', state: 'Asked' },
      entries: [{ addresses: [ida.address], values: { name: 'Gauge' } }],
    });
  });
});

const open = async (repair: Answers['repair']): Promise<OpenPage> => {
  const rows = [1, 2, 3].map((id) => like(emailRow, { id, filings: [], externalDomains: [], outcome: 'unfiled' } as never));
  const page = openPage('/all-mail', {
    ...workspace('rep'),
    listEmails: { emails: rows, next: null, total: 3, isMore: false },
    getRecordSetup: like(recordSetup, { stages: [{ id: 1, name: 'Asked', open: true }], kinds: [] } as never),
    listTeam: { members: [like(teamMember, { id: 4, name: 'Rea Rep', email: 'rep@quillmere.example', active: true } as never)] } as never,
    proposeEach: { entries: [harbour, reef, robot], left: 0 },
    repair,
  });
  await page.user.click(await screen.findByRole('checkbox', { name: 'Choose all, up to 500' }));
  await page.user.click(await screen.findByRole('button', { name: 'Create one for each …' }));
  await screen.findByRole('list', { name: 'Proposals' });
  return page;
};

describe('one record for each', () => {
  test('is proposed with what may be there first, and created or filed as chosen', async () => {
    const { user, calls, choose } = await open(like(repairResult, { id: 5, summary: 'Filed', changed: 3 }));
    const dialog = within(screen.getByRole('dialog', { name: 'Create one record for each, from 3 emails' }));
    expect(dialog.getByText('is open with them · Quoted')).toBeTruthy();
    await choose(dialog.getByRole('combobox', { name: 'What is done for Harbour Oriel' }), 'File under Inner basin');
    await choose(dialog.getByRole('combobox', { name: 'Owner' }), 'Rea Rep');
    await user.type(dialog.getByRole('textbox', { name: 'Added to each name' }), 'autumn');
    await user.click(dialog.getByRole('button', { name: 'Create 1 deal and file under 1' }));
    await waitFor(() => expect(calls('repair')).toHaveLength(1));
    expect(calls('repair')[0]?.body).toEqual(
      eachRequest(
        [1, 2, 3],
        'deal',
        null,
        [harbour, reef, robot],
        values({ rows: [{ fate: 'deal:7', name: '' }, rowOf(reef), rowOf(robot)] }),
      ),
    );
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  });

  test('creates all that are fit or none, and keeps what was chosen when it is refused', async () => {
    const { user, choose, calls } = await open(new Refused(409, 'taken', 'There is an account “Reef Line” already.', {}));
    const dialog = within(screen.getByRole('dialog'));
    await choose(dialog.getByRole('combobox', { name: 'What begins' }), 'account');
    await waitFor(() => expect(calls('proposeEach').at(-1)?.query).toMatchObject({ kind: 'account', emails: '1,2,3' }));
    await dialog.findByRole('list', { name: 'Proposals' });
    await user.click(dialog.getByRole('button', { name: 'Create all' }));
    await user.click(dialog.getByRole('button', { name: 'Create 2 accounts' }));
    expect(await dialog.findByText('There is an account “Reef Line” already.')).toBeTruthy();
    expect(dialog.getByRole('combobox', { name: 'What is done for Harbour Oriel' }).textContent).toBe('Create');
    await user.click(dialog.getByRole('button', { name: 'Create none' }));
    expect(dialog.getByRole<HTMLButtonElement>('button', { name: 'Create' }).disabled).toBe(true);
  });
});
