/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { accessRequest, emergency, grant, sharingChoice, teamMember } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { HEDDA, workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const NADIA = { id: 4, name: 'Nadia Okonjira' };
const ME = { id: HEDDA.id, name: HEDDA.name };
const request = like(accessRequest, {
  id: 7,
  scope: 'email',
  emailId: 31,
  subject: 'Delivery of the gauges',
  record: null,
  askedBy: NADIA,
  owner: ME,
  note: 'I meet them tomorrow',
  at: AT,
  state: 'open',
  emails: 1,
  records: [{ kind: 'deal', id: 9, name: 'Outer harbour' }],
});
const answers = (more: Answers = {}): Answers => ({ ...workspace(), ...more });
const part = (name: string) => screen.findByRole('region', { name });

describe('what colleagues ask for', () => {
  test('is answered with the one email, its conversation, all with a record, or not', async () => {
    const page = openPage('/sharing', answers({ listAccessRequests: { toMe: [request], mine: [] }, answerAccessRequest: request }));
    const asked = within(await part('Colleagues ask you'));
    await asked.findByText('“I meet them tomorrow”');
    await page.user.click(asked.getByRole('button', { name: 'Share this one' }));
    await screen.findByText('Nadia Okonjira can read it from now on.');
    await page.user.click(asked.getByRole('button', { name: 'The conversation' }));
    await waitFor(() => expect(page.calls('answerAccessRequest')).toHaveLength(2));
    await page.user.click(asked.getByRole('button', { name: 'All with a record …' }));
    await page.user.click(await screen.findByRole('option', { name: /Outer harbour/ }));
    await waitFor(() => expect(page.calls('answerAccessRequest')).toHaveLength(3));
    await page.user.click(asked.getByRole('button', { name: 'Decline' }));
    await screen.findByText('Declined. Nadia Okonjira was notified.');
    expect(page.calls('answerAccessRequest').map((call) => call.body)).toEqual([
      { answer: 'asked' },
      { answer: 'conversation' },
      { answer: 'record', record: { kind: 'deal', id: 9 } },
      { answer: 'decline' },
    ]);
  });

  test('stays, with the reason, where the answer did not arrive', async () => {
    const gone = new Refused(404, 'not-found', 'It was withdrawn meanwhile.');
    const page = openPage('/sharing', answers({ listAccessRequests: { toMe: [request], mine: [] }, answerAccessRequest: gone }));
    const asked = within(await part('Colleagues ask you'));
    await page.user.click(await asked.findByRole('button', { name: 'Share this one' }));
    await asked.findByText('It was withdrawn meanwhile.');
  });

  test('one’s own requests are withdrawn while they are open', async () => {
    const mine = [
      { ...request, id: 8, askedBy: ME, owner: NADIA },
      { ...request, id: 9, askedBy: ME, owner: NADIA, state: 'declined' as const },
      { ...request, id: 10, askedBy: ME, owner: NADIA, state: 'withdrawn' as const },
    ];
    const page = openPage('/sharing', answers({ listAccessRequests: { toMe: [], mine }, withdrawAccessRequest: {} }));
    const list = within(await part('You have asked'));
    await list.findByText('declined');
    expect(list.getAllByRole('listitem')).toHaveLength(2);
    await page.user.click(list.getByRole('button', { name: 'Withdraw' }));
    await screen.findByText('Your request is withdrawn.');
    expect(page.calls('withdrawAccessRequest')[0]?.params).toEqual({ id: '8' });
  });
});

describe('what was said and given', () => {
  test('is taken back, each by itself', async () => {
    const word = like(sharingChoice, { id: 3, does: 'seal', scope: 'domain', value: 'teeth.example', emailId: null, level: null, at: AT });
    const given = like(grant, {
      id: 5,
      scope: 'record',
      record: { kind: 'deal', id: 9, name: 'Outer harbour' },
      by: ME,
      to: NADIA,
      at: AT,
      emails: 12,
    });
    const page = openPage(
      '/sharing',
      answers({
        listSharingChoices: { choices: [word], widest: 'everyone' },
        listGrants: { given: [given], received: [] },
        removeSharingChoice: {},
        withdrawGrant: {},
      }),
    );
    const said = within(await part('Your sharing choices'));
    await said.findByText(/teeth\.example/);
    await page.user.click(said.getByRole('button', { name: 'Remove choice' }));
    await screen.findByText('Undone. The rules decide again who sees it.');
    const read = within(await part('What you shared with colleagues'));
    expect((await read.findByText('Nadia Okonjira')).closest('li')?.textContent).toContain('12 emails');
    await page.user.click(read.getByRole('button', { name: 'End access' }));
    await screen.findByText('Nadia Okonjira can no longer read it.');
    expect(page.calls('withdrawGrant')[0]?.params).toEqual({ id: '5' });
  });

  test('of what colleagues let one read, the first are shown, and all on request', async () => {
    const received = Array.from({ length: 11 }, (_, at) =>
      like(grant, { id: at + 1, scope: 'email', emailId: at + 1, subject: `Mail ${at}`, by: NADIA, to: ME, at: AT }),
    );
    const page = openPage('/sharing', answers({ listGrants: { given: [], received } }));
    const list = within(await part('What colleagues let you read'));
    expect(await list.findAllByRole('listitem')).toHaveLength(8);
    await page.user.click(list.getByRole('button', { name: 'All 11' }));
    expect(list.getAllByRole('listitem')).toHaveLength(11);
  });
});

describe('an emergency', () => {
  const asked = like(emergency, {
    id: 2,
    owner: { id: 6, name: 'Jonas Fenwhistle' },
    askedBy: NADIA,
    reason: 'a customer waits',
    hours: 4,
    askedAt: AT,
    state: 'asked',
  });

  test('is asked for with a reason, for some hours', async () => {
    const members = [
      like(teamMember, { ...HEDDA, active: true }),
      like(teamMember, { id: 6, name: 'Jonas Fenwhistle', email: 'jonas@quillmere.example', role: 'rep', active: true }),
    ];
    const page = openPage('/sharing', answers({ listTeam: { members } as never, askEmergency: asked }));
    await page.user.click(await screen.findByRole('button', { name: 'Ask for one …' }));
    const dialog = within(await screen.findByRole('dialog'));
    const list = await dialog.findByLabelText('Member');
    expect(await page.choicesOf(list)).not.toContain(HEDDA.name);
    await page.choose(list, 'Jonas Fenwhistle');
    await page.user.type(dialog.getByLabelText(/^Why/), 'a customer waits for an answer{Enter}');
    await screen.findByText('Asked. Another administrator or a manager has to confirm it.');
    expect(page.calls('askEmergency')[0]?.body).toEqual({ ownerId: 6, reason: 'a customer waits for an answer', hours: 4 });
    await waitFor(() => expect(screen.queryByRole('dialog')).toBeNull());
  });

  test('is confirmed or refused by a second person, and not by whoever asked', async () => {
    const page = openPage(
      '/sharing',
      answers({ listEmergencies: { emergencies: [asked] }, confirmEmergency: { ...asked, state: 'open' } }),
    );
    const list = within(await part('Emergency reading'));
    expect(await list.findByRole('button', { name: 'Refuse' })).toBeTruthy();
    await page.user.click(list.getByRole('button', { name: 'Confirm for 4 hours' }));
    await screen.findByText('Confirmed for 4 hours from now.');
    openPage('/sharing', answers({ listEmergencies: { emergencies: [{ ...asked, askedBy: ME }] } }));
    const own = within(await part('Emergency reading'));
    await own.findByRole('button', { name: 'End it' });
    expect(own.queryByRole('button', { name: /Confirm/ })).toBeNull();
  });

  test('is told to a member whose mail is read, who can end it; others see nothing of it', async () => {
    const open = { ...asked, owner: ME, state: 'open' as const, until: AT, confirmedBy: { id: 9, name: 'Matteo Brandvold' } };
    const page = openPage('/sharing', {
      ...answers({ listEmergencies: { emergencies: [open] }, endEmergency: { ...open, state: 'over' } }),
      ...workspace('rep'),
    });
    const list = within(await part('Emergency reading'));
    expect((await list.findByText('you')).closest('p')?.textContent).toContain('confirmed by Matteo Brandvold');
    await page.user.click(list.getByRole('button', { name: 'End it' }));
    await screen.findByText('The emergency reading has ended.');
    openPage('/sharing', workspace('rep'));
    await part('You have asked');
    expect(screen.queryByRole('region', { name: 'Emergency reading' })).toBeNull();
  });
});
