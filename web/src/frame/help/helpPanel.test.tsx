/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { describe, expect, test } from '@jest/globals';
import { screen, within } from '@testing-library/react';
import { readFileSync } from 'node:fs';
import { workspace } from '../../testing/answers';
import { openPage } from '../../testing/openPage';

/** Answers what is no route of the API as the server's files do. */
function serveHelp(): void {
  const api = globalThis.fetch;
  globalThis.fetch = ((url: string, init: RequestInit) =>
    url === '/help.md'
      ? Promise.resolve({ ok: true, text: () => Promise.resolve(readFileSync('web/public/help.md', 'utf8')) })
      : api(url, init)) as unknown as typeof fetch;
}

describe('help in place', () => {
  test('opens with the page at hand, by the button and by the key; is searched; leads to the keys', async () => {
    const page = openPage('/keep-out', workspace());
    serveHelp();
    await page.user.click((await screen.findAllByRole('button', { name: 'Help' }))[0]!);
    const panel = within(await screen.findByRole('dialog', { name: 'Help' }));
    expect((await panel.findByRole('heading', { level: 3 })).textContent).toBe('Keep out');
    expect(panel.getByText(/never comes in/)).toBeTruthy();
    await page.user.type(panel.getByRole('searchbox', { name: 'Search the help' }), 'pilot');
    const heads = (await panel.findAllByRole('heading', { level: 3 })).map((head) => head.textContent);
    expect(heads).toEqual(expect.arrayContaining(['Trial', 'Rulebook versions', 'Words']));
    await page.user.clear(panel.getByRole('searchbox', { name: 'Search the help' }));
    await page.user.click(panel.getByRole('button', { name: 'Keys' }));
    expect(await screen.findByRole('dialog', { name: 'Keys' })).toBeTruthy();
    await page.user.keyboard('{Escape}');
    await page.user.keyboard('?');
    expect(await screen.findByRole('dialog', { name: 'Help' })).toBeTruthy();
  });
});
