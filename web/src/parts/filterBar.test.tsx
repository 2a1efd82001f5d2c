/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { expect, test } from '@jest/globals';
import { screen } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { openPage } from '../testing/openPage';

test('on a phone filters stand behind a button, which says how many are in use beside the search by words', async () => {
  const page = openPage('/all-mail?outcome=filed&domain=harbour.example&text=gauge', workspace());
  const button = await screen.findByRole('button', { name: /^Filters/ });
  expect(button.textContent).toBe('Filters (2) ▾');
  expect(button.getAttribute('aria-expanded')).toBe('false');
  const place = screen.getByRole('combobox', { name: 'Outcome' }).parentElement;
  expect(place?.className).toContain('max-sm:hidden');
  await page.user.click(button);
  expect(button.getAttribute('aria-expanded')).toBe('true');
  expect(place?.className).not.toContain('max-sm:hidden');
});
