/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { accessToken, signedInSession } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { AT, like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { display, rowHeight } from '../parts/display';
import { openPage, Refused } from '../testing/openPage';

const FIREFOX = 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0';
const answers = (more: Answers = {}): Answers => ({
  ...workspace('rep'),
  listSessions: {
    sessions: [
      like(signedInSession, { id: 'here', program: FIREFOX, current: true, lastSeenAt: AT, since: AT }),
      like(signedInSession, { id: 'phone', program: 'curl/8.5.0', current: false, lastSeenAt: AT, since: null }),
    ],
  },
  ...more,
});
const part = (name: string) => screen.findByRole('region', { name });

describe('the password', () => {
  test('is changed against the one until now, and the fields are empty after', async () => {
    const page = openPage('/account', answers({ changeOwnPassword: {} }));
    const form = within(await part('Password'));
    await page.user.type(form.getByLabelText(/^Current password/), 'tide-gauge-demo');
    await page.user.type(form.getByLabelText(/^New password/), 'a-longer-phrase');
    await page.user.click(form.getByRole('button', { name: 'Change the password' }));
    await screen.findByText('The password is changed, and every other session has ended.');
    expect(page.calls('changeOwnPassword')[0]?.body).toEqual({ current: 'tide-gauge-demo', password: 'a-longer-phrase' });
    expect((form.getByLabelText(/^Current password/) as HTMLInputElement).value).toBe('');
  });

  test('a wrong one is told at its field, and nothing typed is lost', async () => {
    const refused = new Refused(422, 'wrong-password', 'Not changed.', { current: 'This is not your password.' });
    const page = openPage('/account', answers({ changeOwnPassword: refused }));
    const form = within(await part('Password'));
    await page.user.type(form.getByLabelText(/^Current password/), 'wrong-one');
    await page.user.type(form.getByLabelText(/^New password/), 'a-longer-phrase');
    await page.user.click(form.getByRole('button', { name: 'Change the password' }));
    await form.findByText('This is not your password.');
    expect((form.getByLabelText(/^New password/) as HTMLInputElement).value).toBe('a-longer-phrase');
  });
});

describe('sessions', () => {
  test('are told apart, and ended one by one or all but this', async () => {
    const page = openPage('/account', answers({ endSession: ({ params }) => ({ ended: params.session === 'others' ? 3 : 1 }) }));
    const list = within(await part('Where you are signed in'));
    const [here, phone] = await list.findAllByRole('listitem');
    expect(here?.textContent).toContain('Firefox 140 on X11');
    expect(here?.textContent).toContain('here');
    expect(within(here!).queryByRole('button')).toBeNull();
    await page.user.click(within(phone!).getByRole('button', { name: 'Sign out' }));
    await screen.findByText('Signed out there.');
    await page.user.click(list.getByRole('button', { name: 'Sign out everywhere else' }));
    await screen.findByText('Signed out in 3 places.');
    expect(page.calls('endSession').map((call) => call.params.session)).toEqual(['phone', 'others']);
  });
});

describe('access tokens', () => {
  test('a new one is shown once, with what it may and until when', async () => {
    const page = openPage(
      '/account',
      answers({ createToken: { token: 'fulvet_secret', entry: like(accessToken, { id: 7, createdAt: AT }) }, listTokens: { tokens: [] } }),
    );
    const tokens = within(await part('Access tokens'));
    await tokens.findByText('None yet.');
    await page.user.type(tokens.getByLabelText('Name of a new token'), 'Laptop');
    await page.choose(tokens.getByLabelText('Access'), 'read only');
    await page.choose(tokens.getByLabelText('Valid for'), 'until revoked');
    expect((await page.choicesOf(tokens.getByLabelText('Access'))).some((text) => text?.includes('administration'))).toBe(false);
    await page.user.click(tokens.getByRole('button', { name: 'Create token' }));
    expect((await tokens.findByRole('alert')).textContent).toBe('This is missing.');
    expect(page.calls('createToken')).toEqual([]);
    await page.user.type(tokens.getByLabelText('Your password'), 'my own password');
    await page.user.click(tokens.getByRole('button', { name: 'Create token' }));
    await tokens.findByText('fulvet_secret');
    expect(page.calls('createToken')[0]?.body).toEqual({ name: 'Laptop', scopes: ['read'], days: null, password: 'my own password' });
  });

  test('is revoked', async () => {
    const token = like(accessToken, { id: 7, name: 'Laptop', scopes: ['read', 'write'], createdAt: AT, lastUsedAt: null, expiresAt: AT });
    const page = openPage('/account', answers({ listTokens: { tokens: [token] }, revokeToken: {} }));
    const tokens = within(await part('Access tokens'));
    const row = (await tokens.findByText('Laptop')).closest('li')!;
    expect(row.textContent).toMatch(/read and change, until .*never used/);
    await page.user.click(within(row).getByRole('button', { name: 'Revoke' }));
    await waitFor(() => expect(page.calls('revokeToken')[0]?.params).toEqual({ id: '7' }));
    await waitFor(() => expect(page.calls('listTokens')).toHaveLength(2));
  });
});

describe('the second factor', () => {
  test('is set up by the password and a first code; recovery codes are shown once', async () => {
    const page = openPage(
      '/account',
      answers({
        beginSecondFactor: { key: 'ABCD EFGH', uri: 'otpauth://totp/x?secret=ABCDEFGH' },
        confirmSecondFactor: new Refused(422, 'wrong-code', 'That code is not the one of this moment.'),
      }),
    );
    const factor = within(await part('Second factor'));
    await page.user.click(factor.getByRole('button', { name: 'Set it up' }));
    expect((await factor.findByRole('alert')).textContent).toBe('This is missing.');
    await page.user.type(await factor.findByLabelText('Your password'), 'tide-gauge-demo');
    await page.user.click(factor.getByRole('button', { name: 'Set it up' }));
    await page.user.type(await factor.findByLabelText('Code'), '123456{Enter}');
    await factor.findByText('That code is not the one of this moment.');
    page.answer({ confirmSecondFactor: { recoveryCodes: ['aaaa-bbbb', 'cccc-dddd'] }, getSecondFactor: { on: true, recoveryCodes: 2 } });
    await page.user.click(factor.getByRole('button', { name: 'Switch it on' }));
    await factor.findByText('aaaa-bbbb');
    expect(page.calls('confirmSecondFactor').map((call) => call.body)).toEqual([{ code: '123456' }, { code: '123456' }]);
  });

  test('is switched off by the password, and says why where it may not be', async () => {
    const needed = new Refused(409, 'needed', 'The workspace asks everyone for one.');
    const page = openPage('/account', answers({ getSecondFactor: { on: true, recoveryCodes: 9 }, endSecondFactor: needed }));
    const factor = within(await part('Second factor'));
    await factor.findByText(/9\s+recovery codes are left/);
    await page.user.type(factor.getByLabelText('Your password'), 'tide-gauge-demo');
    await page.user.click(factor.getByRole('button', { name: 'Switch it off' }));
    await factor.findByText('The workspace asks everyone for one.');
    page.answer({ endSecondFactor: {}, getSecondFactor: { on: false, recoveryCodes: 0 } });
    await page.user.click(factor.getByRole('button', { name: 'Switch it off' }));
    await screen.findByText('The second factor is off. The password alone is enough.');
  });
});

describe('the display', () => {
  test('is chosen for this browser, at once and for later', async () => {
    const page = openPage('/account', answers());
    const shown = within(await part('Display'));
    await page.user.click(shown.getByRole('radio', { name: 'Dark' }));
    await page.user.click(shown.getByRole('radio', { name: 'Roomy' }));
    expect({ ...document.documentElement.dataset }).toMatchObject({ theme: 'dark', rows: 'roomy' });
    expect(rowHeight(36)).toBe(45);
    expect(display()).toEqual({ theme: 'dark', rows: 'roomy' });
    await page.user.click(shown.getByRole('radio', { name: 'As the system' }));
    await page.user.click(shown.getByRole('radio', { name: /^Compact/ }));
    expect(document.documentElement.dataset.theme).toBe('system');
    expect(rowHeight(36)).toBe(36);
  });

  test('is the usual where what is kept cannot be read', () => {
    window.localStorage.setItem('fulvet.display', '{');
    expect(display()).toEqual({ theme: 'system', rows: 'compact' });
    window.localStorage.removeItem('fulvet.display');
  });
});
