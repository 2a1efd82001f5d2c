/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import { workspace } from '../../testing/answers';
import type { Answers } from '../../testing/openPage';
import { openPage, Refused } from '../../testing/openPage';

const signedOut = { user: null, setUp: true, workspace: 'Quillmere', csrf: '', needs: null, provider: null };
const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  getSession: signedOut,
  getInvitation: { email: 'priya@quillmere.example', name: 'Priya', workspace: 'Quillmere', by: 'Hedda' },
  ...more,
});

describe('an invitation', () => {
  test('says who invites, takes a name and a password, and leads in', async () => {
    const inside = workspace('rep').getSession as Answers['acceptInvitation'];
    const page = openPage('/join?token=abc', answers({ acceptInvitation: inside }));
    await screen.findByRole('heading', { name: 'Join Quillmere' });
    const password = screen.getByLabelText('A password, at least 10 characters');
    expect(document.activeElement).toBe(password);
    await page.user.type(password, 'short{Enter}');
    await screen.findByRole('alert');
    expect(page.calls('acceptInvitation')).toEqual([]);
    await page.user.clear(password);
    await page.user.type(password, 'a tide at noon');
    await page.user.type(screen.getByLabelText('Your name'), ' Vester{Enter}');
    await screen.findByRole('navigation', { name: 'Steps' });
    expect(page.calls('acceptInvitation')[0]?.body).toEqual({ token: 'abc', name: 'Priya Vester', password: 'a tide at noon' });
    await waitFor(() => expect(page.address()).toBe('/'));
  });

  test('that was used or is too old says so, and asks for nothing', async () => {
    openPage('/join?token=old', answers({ getInvitation: new Refused(404, 'bad-invitation', 'This link is no longer valid.') }));
    await screen.findByText('This link is no longer valid.');
    expect(screen.queryByLabelText('Your name')).toBeNull();
  });
});
