/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { expect, test } from '@jest/globals';
import { screen, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { openPage } from '../testing/openPage';

const ADDRESS = {
  address: 'kenji@brightpost.example',
  mailbox: 'kenji@quillmere.example',
  owner: 'Kenji Moorcrest',
  isOurs: false,
  emails: 12,
  records: 1,
};

test('an administrator sees what depends on an address outside the own domains, and confirms it', async () => {
  const page = openPage('/team', {
    ...workspace(),
    listTeamAddresses: { addresses: [ADDRESS] },
    setTeamAddress: { addresses: [{ ...ADDRESS, isOurs: true }] },
  });
  const part = within(await screen.findByRole('region', { name: 'Addresses outside your domains' }));
  await part.findByText(/Not confirmed · mailbox of Kenji Moorcrest · in 12 emails · of 1 contact or lead/);
  await page.user.click(part.getByRole('button', { name: 'Confirm as yours' }));
  expect(page.calls('setTeamAddress')[0]?.body).toEqual({ address: 'kenji@brightpost.example', isOurs: true });
  await part.findByRole('button', { name: 'Remove confirmation' });
});
