/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes } from '@fulvet/contract';
import type { Task } from '@fulvet/contract';
import { beforeEach, describe, expect, test } from '@jest/globals';
import { screen, waitFor, within } from '@testing-library/react';
import { HEDDA, workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';
import { inDays, ownZone, today } from './due';

const due = (days: number, dueAt: string): Pick<Task, 'due' | 'dueAt'> => ({
  due: { day: inDays(days), time: null, zone: 'UTC' },
  dueAt,
});
const FAR = '2100-01-01T00:00:00.000Z';
const task = (id: number, text: string, more: Partial<Task> = {}): Task =>
  like(routes.createTask.response, { id, text, assignee: { id: HEDDA.id, name: HEDDA.name }, canChange: true, ...more }) as Task;

let tasks: Task[];
beforeEach(() => {
  tasks = [
    task(1, 'Send the offer', due(-2, '2026-01-01T00:00:00.000Z')),
    task(2, 'Call Ida', due(0, FAR)),
    task(3, 'Ask for tables', due(3, FAR)),
    task(4, 'Read the study'),
  ];
});
interface Asked {
  ids: number[];
  change: { done?: boolean };
}
const answers = (more: Answers = {}): Answers => ({
  ...workspace('rep'),
  listTeam: {
    members: [
      like(routes.listTeam.response.shape.members.element, { ...HEDDA, active: true }),
      like(routes.listTeam.response.shape.members.element, { id: 2, name: 'Nadia Okonjira', role: 'rep', active: true }),
    ],
  },
  listTasks: () => ({ tasks, next: null }),
  changeTasks: ({ body }) => {
    const { ids, change } = body as Asked;
    const before = tasks;
    if (change.done === true) tasks = tasks.filter(({ id }) => !ids.includes(id));
    return { changed: before.length - tasks.length, kept: [], undo: 7, next: [] };
  },
  ...more,
});
const part = (name: string) => within(screen.getByRole('region', { name }));

describe('tasks', () => {
  test('stand in parts by when they are due; what is done goes, and comes back by one click', async () => {
    const all = tasks;
    const page = openPage('/tasks', answers({ undo: () => ((tasks = all), { changed: 1, kept: [] }) }));
    await screen.findByText('Send the offer');
    for (const [name, text] of [
      ['Overdue', 'Send the offer'],
      ['Today', 'Call Ida'],
      ['Next 7 days', 'Ask for tables'],
      ['Without a day', 'Read the study'],
    ] as const)
      part(name).getByText(text);
    await page.user.click(screen.getByRole('checkbox', { name: 'Done: Call Ida' }));
    await waitFor(() => expect(screen.queryByText('Call Ida')).toBeNull());
    await screen.findByText('Done: Call Ida');
    await page.user.click(screen.getByRole('button', { name: 'Undo' }));
    await screen.findByRole('checkbox', { name: 'Done: Call Ida' });
  });

  test('are moved and handed over together', async () => {
    const page = openPage('/tasks', answers());
    await screen.findByText('Send the offer');
    await page.user.click(screen.getByRole('checkbox', { name: 'Select Send the offer' }));
    await page.user.click(screen.getByRole('checkbox', { name: 'Select Call Ida' }));
    const bar = within(screen.getByRole('region', { name: '2 tasks chosen' }));
    await page.user.click(bar.getByRole('button', { name: 'tomorrow' }));
    await waitFor(() =>
      expect(page.calls('changeTasks').at(-1)?.body).toEqual({ ids: [1, 2], change: { day: inDays(1), zone: ownZone() } }),
    );
  });

  test('none: the page says how one is made', async () => {
    tasks = [];
    openPage('/tasks', answers());
    await screen.findByText('Nothing to do');
    screen.getByText(/from an email with the key D/);
  });

  test('are written down with what is needed, and a refusal is told', async () => {
    let refuse = true;
    const page = openPage(
      '/tasks',
      answers({
        createTask: () =>
          refuse ? new Refused(422, 'no-such-member', 'This member has left, or only reads. Choose someone else.') : task(9, 'x'),
      }),
    );
    await page.user.click(await screen.findByRole('button', { name: 'New task' }));
    const form = within(await screen.findByRole('dialog', { name: 'New task' }));
    const save = form.getByRole('button', { name: 'Save the task' }) as HTMLButtonElement;
    expect(save.disabled).toBe(true);
    await page.user.type(form.getByRole('textbox', { name: 'What is to be done' }), 'Visit the works');
    await page.user.click(form.getByRole('button', { name: 'in a week' }));
    await page.choose(form.getByRole('combobox', { name: 'Comes back' }), 'weeks');
    await page.user.click(save);
    await form.findByText(/This member has left/);
    refuse = false;
    await page.user.click(save);
    await screen.findByText('The task is saved.');
    expect(page.calls('createTask').at(-1)?.body).toMatchObject({
      text: 'Visit the works',
      due: { day: inDays(7), time: null, zone: ownZone() },
      repeat: { every: 1, unit: 'week' },
      assigneeId: HEDDA.id,
      endsBy: null,
    });
  });
});

describe('an email', () => {
  const email = like(routes.getEmail.response, {
    id: 5,
    direction: 'received',
    outcome: 'filed',
    content: like(routes.getEmail.response.shape.content.unwrap(), {
      subject: 'How deep is the gate?',
      participants: [{ role: 'from', address: 'ida@harbour.example', name: 'Ida Brandt', ours: false }],
    }),
  });

  test('becomes a task for today by one key, which one click takes back', async () => {
    tasks = [];
    const page = openPage('/all-mail?decision=5', answers({ getEmail: email, createTask: task(9, 'x') }));
    await screen.findByRole('button', { name: /Make it a task/ });
    await page.user.keyboard('d');
    await screen.findByText('It is a task for today.');
    expect(page.calls('createTask').at(-1)?.body).toMatchObject({
      text: 'Answer Ida Brandt: How deep is the gate?',
      emailId: 5,
      due: { day: today(), time: null, zone: ownZone() },
      endsBy: 'our answer',
    });
    await page.user.click(screen.getByRole('button', { name: 'Undo' }));
    await screen.findByText('The task is removed.');
    expect(page.calls('changeTasks').at(-1)?.body).toEqual({ ids: [9], change: { removed: true } });
  });
});
