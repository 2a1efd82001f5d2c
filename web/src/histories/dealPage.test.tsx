/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { historyPage, insights, recordDetail, teamMember } from '@fulvet/contract';
import type { RecordDetail } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { HEDDA, workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const person = (id: number, name: string, role: string): RecordDetail['people'][number] => ({
  kind: 'contact',
  id,
  name,
  detail: '',
  role,
});
const deal = (people = [person(4, 'Ida Brandt', 'buyer'), person(5, 'Kim Aster', '')]): RecordDetail =>
  like(recordDetail, { kind: 'deal', id: 21, name: 'Tide gauges', people, nameConfidence: 1 } as never);
const answers = (more: Answers = {}): Answers => ({
  ...workspace('rep'),
  getRecord: deal(),
  getHistory: like(historyPage),
  getDealTeam: { members: [{ id: 2, name: 'Nadia' }] },
  listTeam: {
    members: [
      like(teamMember, { id: HEDDA.id, name: HEDDA.name, email: HEDDA.email, active: true }),
      like(teamMember, { id: 2, name: 'Nadia', email: 'nadia@quillmere.example', active: true }),
      like(teamMember, { id: 3, name: 'Gone', email: 'gone@quillmere.example', active: false }),
    ],
  },
  ...more,
});
const onDeal = async () => within(await screen.findByRole('region', { name: 'People' }));

describe('the people on a deal', () => {
  test('are given a role in place, which decides their mail again and can be undone', async () => {
    const page = openPage('/records/deal/21', answers({ setDealPeople: { ...deal(), undo: 8 } }));
    const role = (await onDeal()).getByRole<HTMLInputElement>('textbox', { name: 'What Kim Aster is to the deal' });
    await page.user.type(role, 'engineer{Enter}');
    await screen.findByText('Saved. Mail of these people is decided again.');
    expect(page.calls('setDealPeople')[0]?.body).toEqual({
      people: [
        { kind: 'contact', id: 4, role: 'buyer' },
        { kind: 'contact', id: 5, role: 'engineer' },
      ],
    });
    expect(screen.getByRole('button', { name: 'Undo' })).toBeTruthy();
  });

  test('are taken off; a role that stays the same changes nothing', async () => {
    const page = openPage('/records/deal/21', answers({ setDealPeople: { ...deal([]), undo: 8 } }));
    await page.user.type((await onDeal()).getByRole('textbox', { name: 'What Ida Brandt is to the deal' }), '{Enter}');
    expect(page.calls('setDealPeople')).toEqual([]);
    await page.user.click((await onDeal()).getByRole('button', { name: 'Remove Ida Brandt from the deal' }));
    await waitFor(() => expect(page.calls('setDealPeople')[0]?.body).toEqual({ people: [{ kind: 'contact', id: 5, role: '' }] }));
  });

  test('are contacts and leads: no account is put on a deal', async () => {
    const page = openPage(
      '/records/deal/21',
      answers({
        search: {
          records: [
            { kind: 'account', id: 3, name: 'Harbour Oriel', detail: '' },
            { kind: 'contact', id: 6, name: 'Harbour Pilot', detail: '' },
          ],
          emails: [],
          emailTotal: 0,
          isMore: false,
        },
        setDealPeople: { ...deal(), undo: 8 },
      }),
    );
    await page.user.click((await onDeal()).getByRole('button', { name: 'Add a person …' }));
    await page.user.keyboard('harbour');
    const pilot = await screen.findByRole('option', { name: /Harbour Pilot/ });
    expect(screen.queryByRole('option', { name: /Harbour Oriel/ })).toBeNull();
    await page.user.click(pilot);
    await waitFor(() => expect(page.calls('setDealPeople')).toHaveLength(1));
  });

  test('are only read by viewers', async () => {
    openPage('/records/deal/21', { ...answers(), getSession: workspace('viewer').getSession } as Answers);
    expect((await onDeal()).getByText('buyer')).toBeTruthy();
    expect((await onDeal()).queryByRole('textbox')).toBeNull();
  });
});

describe('the colleagues on a deal', () => {
  test('are chosen among those who are active', async () => {
    const page = openPage('/records/deal/21', answers({ setDealTeam: { members: [] } }));
    const team = within(await screen.findByRole('region', { name: 'Deal team' }));
    await team.findByText('Nadia');
    await page.user.click(team.getByRole('button', { name: 'change' }));
    const dialog = within(await screen.findByRole('dialog', { name: 'Colleagues on this deal' }));
    await dialog.findByRole('checkbox', { name: HEDDA.name });
    expect(dialog.queryByRole('checkbox', { name: 'Gone' })).toBeNull();
    await page.user.click(dialog.getByRole('checkbox', { name: HEDDA.name }));
    await page.user.click(dialog.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(page.calls('setDealTeam')[0]?.body).toEqual({ members: [2, HEDDA.id] }));
    await screen.findByText('Saved. They see at once what those on the record see.');
  });

  test('stay as they are where someone else says who they are', async () => {
    const refused = new Refused(403, 'not-yours', 'The owner of the deal or a manager says who is on its team.');
    const page = openPage('/records/deal/21', answers({ setDealTeam: refused }));
    const team = within(await screen.findByRole('region', { name: 'Deal team' }));
    await page.user.click(await team.findByRole('button', { name: 'change' }));
    const dialog = within(await screen.findByRole('dialog'));
    await page.user.click(dialog.getByRole('button', { name: 'Save' }));
    await dialog.findByText('The owner of the deal or a manager says who is on its team.');
  });
});

test('what people look at before they write: the last contact, answers, what waits and the next meeting', async () => {
  const meeting = {
    emailId: 9,
    at: '2030-05-04T08:00:00.000Z',
    until: '2030-05-04T09:00:00.000Z',
    summary: 'Visit on the quay',
    location: '',
  };
  const page = openPage(
    '/records/deal/21',
    answers({
      getInsights: like(insights, {
        figures: { ...like(insights.shape.figures), emails: 12, lastEmailAt: AT, lastBy: 'Ida Brandt', lastDirection: 'received' } as never,
        answerHours: { ours: 0.5, theirs: 72 },
        unanswered: [{ emailId: 7, conversationId: 7, subject: 'Which berth?', from: 'Ida Brandt', since: AT }],
        meeting,
      }),
    }),
  );
  const glance = within((await screen.findByText('we take 30 min, they 3 days')).closest('div')!);
  expect(glance.getByText(/Ida Brandt wrote to us/)).toBeTruthy();
  expect(glance.getByText(/Which berth\?/)).toBeTruthy();
  await page.user.click(glance.getByRole('button', { name: /2030/ }));
  await waitFor(() => expect(page.address()).toContain('decision=9'));
});
