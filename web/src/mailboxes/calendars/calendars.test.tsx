/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { calendar as calendarShape, mailboxDetail } from '@fulvet/contract';
import type { Calendar, MailboxCalendars } from '@fulvet/contract';
import { expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { workspace } from '../../testing/answers';
import { like } from '../../testing/emptyAnswer';
import type { Answers } from '../../testing/openPage';
import { openPage, Refused } from '../../testing/openPage';

const work = (more: Partial<Calendar> = {}): Calendar =>
  like(calendarShape, { id: 5, kind: 'caldav', name: 'Work', host: 'calendar.harbour.example', followed: false, ...more } as never);
const listed = (...calendars: Calendar[]): MailboxCalendars => ({
  account: { url: 'https://calendar.harbour.example', userName: 'nadia', ownPassword: true },
  calendars,
});
const answers = (more: Answers): Answers => ({
  ...workspace(),
  getMailbox: like(mailboxDetail, { id: 7, address: 'nadia@quillmere.example', kind: 'person', state: 'running' } as never),
  ...more,
});
const section = async (): Promise<ReturnType<typeof within>> => within(await screen.findByRole('region', { name: 'Calendars' }));

test('calendars are found at a server, and read when they are chosen', async () => {
  const page = openPage(
    '/mailboxes/7',
    answers({
      listCalendars: { account: null, calendars: [] },
      connectCalendars: listed(work()),
      followCalendar: listed(work({ followed: true })),
    }),
  );
  const list = await section();
  await list.findByText('No calendar is read yet.');
  await page.user.click(list.getByRole('button', { name: 'Connect a calendar server' }));
  const dialog = within(await screen.findByRole('dialog'));
  await page.user.type(dialog.getByRole('textbox', { name: /^Address of the server/ }), 'calendar.harbour.example');
  await page.user.click(dialog.getByRole('button', { name: 'Find the calendars' }));
  await screen.findByText('1 calendar found. Choose what is read.');
  expect(page.calls('connectCalendars')[0]?.body).toMatchObject({ url: 'calendar.harbour.example', userName: '', password: '' });
  await page.user.click(list.getByRole('checkbox', { name: 'Read the calendar Work' }));
  await list.findByText(/being read/);
  expect(page.calls('followCalendar')[0]?.body).toEqual({ followed: true });
});

test('an address that is none is said before it is sent, and what the server says is shown', async () => {
  const page = openPage(
    '/mailboxes/7',
    answers({
      listCalendars: listed(),
      subscribeCalendar: () => new Refused(502, 'calendar-server', 'What is at this address is no calendar.'),
    }),
  );
  const list = await section();
  await page.user.click(list.getByRole('button', { name: 'Subscribe to a calendar file' }));
  const dialog = within(await screen.findByRole('dialog'));
  const address = dialog.getByRole('textbox', { name: /^Address of the calendar/ });
  await page.user.type(address, 'not an address');
  await page.user.type(dialog.getByRole('textbox', { name: /^What it is called here/ }), 'Tours');
  await page.user.click(dialog.getByRole('button', { name: 'Subscribe' }));
  await dialog.findByText(/is not the address of a calendar/);
  expect(page.calls('subscribeCalendar')).toEqual([]);
  await page.user.clear(address);
  await page.user.type(address, 'webcal://calendar.harbour.example/a.ics');
  await page.user.click(dialog.getByRole('button', { name: 'Subscribe' }));
  await dialog.findByText('What is at this address is no calendar.');
});

test('a calendar that cannot be read says why; one that is removed keeps its events', async () => {
  const problem = {
    title: 'The calendar server refused the sign-in',
    remedy: 'Enter it again.',
    said: 'It answered 401.',
    since: '2026-05-04T10:00:00Z',
  };
  const page = openPage(
    '/mailboxes/7',
    answers({
      listCalendars: listed(
        work({ followed: true, problem, events: 12, readAt: '2026-05-03T10:00:00Z' }),
        work({ id: 6, kind: 'subscribed', name: 'Tours' }),
      ),
      removeCalendar: listed(work()),
    }),
  );
  const list = await section();
  const alert = await list.findByRole('alert');
  expect(alert.textContent).toContain('The calendar server refused the sign-in');
  expect(alert.textContent).toContain('It answered 401.');
  await page.user.click(list.getByRole('button', { name: 'Remove Tours' }));
  await screen.findByText('Tours is removed. Its events stay.');
  await waitFor(() => expect(list.queryByText('Tours')).toBeNull());
});

test('a list of tasks is kept only when it is chosen, says what that means, and why it may not be', async () => {
  const tasks = work({ id: 6, kind: 'tasks', name: 'To do', events: 3 });
  const page = openPage(
    '/mailboxes/7',
    answers({
      listCalendars: listed(work(), tasks),
      followCalendar: listed(work(), { ...tasks, followed: true, readAt: '2026-11-05T09:00:00Z' }),
    }),
  );
  const list = await section();
  expect(await list.findByText(/^In a list of tasks, your open tasks are kept, too/)).toBeTruthy();
  expect(list.getByText('list of tasks · calendar.harbour.example')).toBeTruthy();
  await page.user.click(list.getByRole('checkbox', { name: 'Keep my tasks in the list To do' }));
  expect(await screen.findByText('Your tasks are kept in To do from now on.')).toBeTruthy();
  expect(await list.findByText(/^3 tasks/)).toBeTruthy();
  page.answer({ followCalendar: new Refused(403, 'not-yours', 'The tasks of whoever owns the mailbox go into this list.') });
  await page.user.click(list.getByRole('checkbox', { name: 'Keep my tasks in the list To do' }));
  expect(await list.findByText('The tasks of whoever owns the mailbox go into this list.')).toBeTruthy();
});
