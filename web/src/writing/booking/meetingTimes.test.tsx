/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { booking as bookingShape, meetingKind, offered } from '@fulvet/contract';
import { expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../../testing/answers';
import { like } from '../../testing/emptyAnswer';
import type { Answers } from '../../testing/openPage';
import { openPage } from '../../testing/openPage';

const call = like(meetingKind, {
  id: 3,
  name: 'Call',
  minutes: 30,
  days: [1, 2, 3, 4, 5],
  from: '09:00',
  to: '17:00',
  zone: 'Europe/Berlin',
  needs: 'all',
  members: [{ id: 2, name: 'Nadia', readsCalendar: false }],
  canChange: true,
  aheadDays: 30,
} as never);
const answers = (more: Answers = {}): Answers => ({
  ...workspace(),
  listMeetingKinds: { kinds: [call] },
  listBookings: { bookings: [] },
  ...more,
});

test('a kind of meeting is described, and a link to it is made for one guest', async () => {
  const page = openPage('/meeting-times', answers({ offerTimes: like(offered, { url: 'https://fulvet.example/m/abc' } as never) }));
  await screen.findByText('30 minutes · Monday to Friday · 09:00 to 17:00 · Europe/Berlin · with Nadia');
  await screen.findByText(/No calendar of Nadia is read/);
  await page.user.click(screen.getByRole('button', { name: 'Get a link: Call' }));
  await within(await screen.findByRole('dialog')).findByText('https://fulvet.example/m/abc');
});

test('a kind is made in a form that says what is wrong; removing it can be undone', async () => {
  const page = openPage('/meeting-times', answers({ createMeetingKind: call, removeMeetingKind: {} }));
  await page.user.click(await screen.findByRole('button', { name: 'New kind of meeting' }));
  const dialog = within(await screen.findByRole('dialog'));
  const minutes = await dialog.findByRole('textbox', { name: 'Minutes' });
  await page.user.clear(minutes);
  await page.user.click(dialog.getByRole('button', { name: 'Save' }));
  await dialog.findByText(/is missing: what guests read/);
  expect(page.calls('createMeetingKind')).toEqual([]);
  await page.user.type(minutes, '45');
  await page.user.type(dialog.getByRole('textbox', { name: /^Name/ }), 'Visit');
  await page.user.click(dialog.getByRole('button', { name: 'Save' }));
  await waitFor(() =>
    expect(page.calls('createMeetingKind')[0]?.body).toMatchObject({ name: 'Visit', minutes: 45, days: [1, 2, 3, 4, 5] }),
  );
  await page.user.click(await screen.findByRole('button', { name: 'Remove: Call' }));
  await page.user.click(await screen.findByRole('button', { name: 'Undo' }));
  await waitFor(() => expect(page.calls('removeMeetingKind').map(({ body }) => body)).toEqual([{ removed: true }, { removed: false }]));
});

test('what is booked is cancelled after a question', async () => {
  const booked = like(bookingShape, {
    id: 9,
    name: 'Call',
    guest: { name: 'Ida', address: 'ida@harbour.example' },
    at: '2026-05-04T08:00:00Z',
    until: '2026-05-04T08:30:00Z',
  } as never);
  const page = openPage('/meeting-times', answers({ listBookings: { bookings: [booked] }, cancelBooking: {} }));
  await page.user.click(await screen.findByRole('button', { name: 'Cancel the meeting with Ida' }));
  const dialog = within(await screen.findByRole('dialog'));
  expect(page.calls('cancelBooking')).toEqual([]);
  await page.user.click(dialog.getByRole('button', { name: 'Cancel the meeting' }));
  await screen.findByText('The meeting is cancelled.');
});
