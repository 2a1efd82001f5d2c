/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes } from '@fulvet/contract';
import type { Session } from '@fulvet/contract';
import { describe, expect, test } from '@jest/globals';
import { screen, waitFor } from '@testing-library/react';
import { HEDDA, workspace } from '../../testing/answers';
import { like } from '../../testing/emptyAnswer';
import type { Answers } from '../../testing/openPage';
import { openPage, Refused } from '../../testing/openPage';

const nobody: Session = { user: null, setUp: true, workspace: 'Quillmere', csrf: 'before', needs: null, provider: null };
const somebody: Session = { ...nobody, user: HEDDA, csrf: 'after' };
const answers = (more: Answers = {}): Answers => ({ ...workspace(), getSession: nobody, ...more });

async function signIn(page: ReturnType<typeof openPage>): Promise<void> {
  await page.user.type(await screen.findByLabelText('Address'), HEDDA.email);
  await page.user.type(screen.getByLabelText('Password'), 'a long enough one{Enter}');
}

describe('signing in', () => {
  test('leads to the page that was wanted', async () => {
    const page = openPage('/match', answers({ signIn: somebody }));
    await screen.findByRole('heading', { name: 'Sign in to Quillmere' });
    page.answer({ getSession: somebody });
    await signIn(page);
    await screen.findByRole('heading', { name: 'Match' });
    expect(page.calls('signIn')[0]?.body).toEqual({ email: HEDDA.email, password: 'a long enough one' });
    expect(page.address()).toBe('/match');
  });

  test('that fails says so and keeps the address', async () => {
    const page = openPage('/', answers({ signIn: new Refused(401, 'wrong-sign-in', 'Address or password is wrong.') }));
    await signIn(page);
    expect((await screen.findByRole('alert')).textContent).toContain('Address or password is wrong.');
    expect(screen.getByLabelText<HTMLInputElement>('Address').value).toBe(HEDDA.email);
  });

  test('asks for the code where a second factor is set up', async () => {
    const page = openPage('/match', answers({ signIn: { ...nobody, needs: 'code' } }));
    await signIn(page);
    await screen.findByRole('heading', { name: 'The code for Quillmere' });
    expect(screen.queryByLabelText('Password')).toBeNull();
  });

  test('offers the identity provider only where there is one', async () => {
    openPage('/', answers());
    await screen.findByLabelText('Password');
    expect(screen.queryByRole('link', { name: /^Sign in with/ })).toBeNull();
    openPage('/', answers({ getSession: { ...nobody, provider: 'Harbour ID' } }));
    const link = await screen.findByRole<HTMLAnchorElement>('link', { name: 'Sign in with Harbour ID' });
    expect(new URL(link.href).pathname).toBe('/api/v1/session/provider');
  });

  test('shows no page behind it while a second factor has to be set up', async () => {
    openPage('/match', answers({ getSession: { ...somebody, needs: 'second factor' } }));
    await screen.findByRole('heading', { name: 'Set up your second factor first' });
    expect(screen.queryByRole('navigation', { name: 'Steps' })).toBeNull();
  });

  test('that cannot be asked about says that the server does not answer', async () => {
    openPage('/', answers({ getSession: new Refused(503, 'starting', 'The server is starting. Try again in a minute.') }));
    await screen.findByText('The server is starting. Try again in a minute.');
  });
});

describe('the first set-up', () => {
  const empty: Session = { ...nobody, setUp: false };

  test('asks who administers and who we are, and suggests our domain from the address', async () => {
    const page = openPage('/', answers({ getSession: empty, setUp: like(routes.setUp.response) }));
    await page.user.type(await screen.findByLabelText('Your name'), 'Hedda Quillmere');
    await page.user.type(screen.getByLabelText('Your address'), HEDDA.email);
    await page.user.tab();
    expect(screen.getByLabelText<HTMLInputElement>(/^Our own domains/).value).toBe('quillmere.example');
    await page.user.type(screen.getByLabelText(/^Our own domains/), ', quillmere-harbour.example');
    await page.user.type(screen.getByLabelText(/^Password/), 'a long enough one{Enter}');
    await waitFor(() =>
      expect(page.calls('setUp')[0]?.body).toEqual({
        workspace: 'Our team',
        admin: { email: HEDDA.email, name: 'Hedda Quillmere', password: 'a long enough one' },
        ownDomains: ['quillmere.example', 'quillmere-harbour.example'],
      }),
    );
  });

  test('names the field that is wrong, at the field', async () => {
    const wrong = new Refused(422, 'bad-request', 'Some fields need another value.', {
      ownDomains: 'freemail.example is a public mail provider.',
    });
    const page = openPage('/', answers({ getSession: empty, setUp: wrong }));
    await page.user.type(await screen.findByLabelText('Your name'), 'Hedda');
    await page.user.type(screen.getByLabelText('Your address'), 'hedda@freemail.example');
    await page.user.tab();
    await page.user.type(screen.getByLabelText(/^Password/), 'a long enough one{Enter}');
    const alerts = await screen.findAllByRole('alert');
    expect(alerts.map((alert) => alert.textContent)).toContain('freemail.example is a public mail provider.');
  });
});
