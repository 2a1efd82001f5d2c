/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import { lazy, Suspense } from 'react';
import { Faults } from './Faults';

beforeEach(() => {
  jest.spyOn(console, 'error').mockImplementation(() => undefined);
});
afterEach(() => {
  cleanup();
  jest.restoreAllMocks();
});

function Broken(): never {
  throw new Error('no such deal in the list');
}

const missing = (message: string) => lazy(() => Promise.reject<{ default: () => null }>(new TypeError(message)));

describe('a page that cannot be shown', () => {
  test('says what failed, and is left by going elsewhere', () => {
    const { rerender } = render(
      <Faults place="/deals">
        <Broken />
      </Faults>,
    );
    expect(screen.getByRole('alert').textContent).toContain('This page could not be shown');
    expect(screen.getByText('no such deal in the list')).toBeTruthy();
    rerender(
      <Faults place="/accounts">
        <p>All accounts</p>
      </Faults>,
    );
    expect(screen.getByText('All accounts')).toBeTruthy();
    expect(screen.queryByRole('alert')).toBeNull();
  });

  test.each([
    'Failed to fetch dynamically imported module: https://fulvet.example/assets/DeskPage-a1.js',
    'error loading dynamically imported module: https://fulvet.example/assets/DeskPage-a1.js',
    'Importing a module script failed.',
    'Unable to preload CSS for /assets/DeskPage-a1.css',
  ])('whose script is gone since an update says that, not the name of a file: %s', async (message) => {
    const Page = missing(message);
    render(
      <Faults place="/desk">
        <Suspense fallback="Loading">
          <Page />
        </Suspense>
      </Faults>,
    );
    const { textContent } = await screen.findByRole('alert');
    expect(textContent).toContain('Fulvet was updated since you opened it');
    expect(textContent).not.toContain('a1');
    expect(screen.getByRole('button', { name: 'Load the page again' })).toBeTruthy();
  });
});
