/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { emailDetail, routes, teamMember } from '@fulvet/contract';
import type { EmailDetail } from '@fulvet/contract';
import type { ShareLevel } from '@fulvet/core';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import type { BoundFunctions, queries } from '@testing-library/react';
import { emailRow, HEDDA, workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers, OpenPage } from '../testing/openPage';
import { openPage } from '../testing/openPage';

const email: EmailDetail = like(emailDetail, {
  id: 31,
  at: AT,
  outcome: 'filed',
  owned: true,
  content: {
    subject: 'Gauges',
    participants: [
      { role: 'from', address: HEDDA.email, name: HEDDA.name, ours: true },
      { role: 'to', address: 'ida@harbour.example', name: 'Ida Brandt', ours: false },
    ],
    parts: [],
    hasHtml: false,
    attachments: [],
    meetings: [],
  },
} as never);

async function openDialog(widest: ShareLevel, more: Answers = {}): Promise<OpenPage & { dialog: BoundFunctions<typeof queries> }> {
  const page = openPage('/all-mail?decision=31', {
    ...workspace('rep'),
    listEmails: { emails: [emailRow(31, 'Gauges')], next: null, total: 1, isMore: false },
    getEmail: email,
    listSharingChoices: { choices: [], widest },
    listTeam: {
      members: [
        like(teamMember, { ...HEDDA, active: true }),
        like(teamMember, { id: 2, name: 'Nadia', email: 'nadia@quillmere.example', active: true }),
      ],
    } as never,
    listTeams: { teams: [{ id: 1, name: 'Coast', members: [] }] },
    addGrants: like(routes.addGrants.response) as never,
    addSharingChoice: like(routes.addSharingChoice.response, { emails: 4 } as never) as never,
    ...more,
  });
  await page.user.click(await screen.findByRole('button', { name: 'Share or seal …' }));
  return { ...page, dialog: within(await screen.findByRole('dialog', { name: 'Who sees it' })) };
}

describe('who sees an email, said by its owner', () => {
  test('is single colleagues, for the conversation', async () => {
    const { dialog, user, calls } = await openDialog('everyone');
    const save = dialog.getByRole<HTMLButtonElement>('button', { name: 'Save this choice' });
    expect(save.disabled).toBe(true);
    expect(dialog.queryByRole('checkbox', { name: HEDDA.name })).toBeNull();
    await user.click(await dialog.findByRole('checkbox', { name: 'Nadia' }));
    await user.click(save);
    await screen.findByText('Shared. They can read it from now on.');
    expect(calls('addGrants')[0]?.body).toEqual({ scope: 'conversation', emailId: 31, to: [2] });
  });

  test('goes no further than the workspace lets it', async () => {
    const { dialog, choicesOf } = await openDialog('record');
    await waitFor(async () =>
      expect(await choicesOf(dialog.getByRole('combobox', { name: 'Who' }))).toEqual([
        'Let single colleagues read it',
        'Only you read it (administrators see that it exists)',
        'Owners of its records, and the deal’s team',
        'Seal it: no one else sees that it exists',
      ]),
    );
  });

  test('is teams, of everything with a company, of mail up to now, and only that it exists', async () => {
    const { dialog, user, choose, calls } = await openDialog('everyone');
    await choose(dialog.getByRole('combobox', { name: 'Who' }), 'Teams');
    await choose(dialog.getByRole('combobox', { name: 'Of what' }), 'Everything of mine with harbour.example');
    await user.click(await dialog.findByRole('checkbox', { name: 'Coast' }));
    await user.click(dialog.getByRole('checkbox', { name: /^Only that it exists/ }));
    await user.click(dialog.getByRole('checkbox', { name: 'Later mail as well' }));
    await user.click(dialog.getByRole('button', { name: 'Save this choice' }));
    await waitFor(() => expect(calls('addSharingChoice')).toHaveLength(1));
    expect(calls('addSharingChoice')[0]?.body).toEqual({
      does: 'share',
      scope: 'domain',
      value: 'harbour.example',
      level: 'teams',
      teams: ['Coast'],
      existenceOnly: true,
      always: false,
    });
  });

  test('is no one: a seal names no level', async () => {
    const { dialog, user, choose, calls } = await openDialog('everyone');
    await choose(dialog.getByRole('combobox', { name: 'Who' }), 'Seal it: no one else sees that it exists');
    await choose(dialog.getByRole('combobox', { name: 'Of what' }), 'This email alone');
    await user.click(dialog.getByRole('button', { name: 'Seal' }));
    await screen.findByText('Sealed. No one else sees that it exists.');
    expect(calls('addSharingChoice')[0]?.body).toEqual({ does: 'seal', scope: 'email', emailId: 31, always: true });
  });

  test('comes back to the conversation where single colleagues are chosen after a person', async () => {
    const { dialog, choose } = await openDialog('everyone');
    const who = dialog.getByRole('combobox', { name: 'Who' });
    await choose(who, 'Everyone in the workspace');
    await choose(dialog.getByRole('combobox', { name: 'Of what' }), 'Everything of mine with ida@harbour.example');
    await choose(who, 'Let single colleagues read it');
    await waitFor(() => expect(dialog.getByRole('combobox', { name: 'Of what' }).textContent).toBe('This conversation, later emails too'));
  });
});
