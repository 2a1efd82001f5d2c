/** @jest-environment ./web/src/testing/pageEnvironment.mjs */
import { routes } from '@fulvet/contract';
import type { Activity } from '@fulvet/contract';
import { beforeEach, describe, expect, test } from '@jest/globals';
import { screen, within } from '@testing-library/react';
import { workspace } from '../testing/answers';
import { like } from '../testing/emptyAnswer';
import type { Answers } from '../testing/openPage';
import { openPage, Refused } from '../testing/openPage';

const conversation = (id: number, lastAt: string) =>
  like(routes.getHistory.response.shape.conversations.element, { id, subject: `Conversation ${id}`, lastAt });
const entry = (more: Partial<Activity> = {}): Activity => ({
  id: 1,
  kind: 'call',
  at: '2026-05-04T10:00:00.000Z',
  direction: 'both',
  text: 'Talked about the gauge.',
  isPrivate: false,
  records: [{ kind: 'account', id: 3, name: 'Harbour Oriel' }],
  writer: 'Ada',
  writtenAt: '2026-05-04T11:00:00.000Z',
  isMine: true,
  revision: 0,
  changes: [],
  ...more,
});

let logged: Activity[];
beforeEach(() => {
  logged = [entry()];
});
const answers = (more: Answers = {}): Answers => ({
  ...workspace('rep'),
  getRecord: like(routes.getRecord.response, { kind: 'account', id: 3, name: 'Harbour Oriel' }),
  getHistory: () =>
    like(routes.getHistory.response, {
      conversations: [conversation(1, '2026-05-05T10:00:00.000Z'), conversation(2, '2026-05-03T10:00:00.000Z')],
      logged,
    }),
  removeActivity: ({ body }) => {
    logged = (body as { removed: boolean }).removed ? [] : [entry()];
    return {};
  },
  ...more,
});

describe('contact that is logged', () => {
  test('stands in the history by its time; its writer removes it, and has it back by one click', async () => {
    const page = openPage('/records/account/3', answers());
    const history = within(await screen.findByRole('region', { name: 'History' }));
    await history.findByText('Talked about the gauge.');
    const order = history.getAllByText(/^(Conversation \d|Call)$/).map(({ textContent }) => textContent);
    expect(order).toEqual(['Conversation 1', 'Call', 'Conversation 2']);
    const call = within(history.getByRole('article', { name: 'Call' }));
    await page.user.click(call.getByRole('button', { name: 'Remove' }));
    await screen.findByText('The entry is removed.');
    expect(history.queryByText('Talked about the gauge.')).toBeNull();
    await page.user.click(screen.getByRole('button', { name: 'Undo' }));
    await history.findByText('Talked about the gauge.');
  });

  test('is written down from the record, with what is missing or wrong said beside it', async () => {
    const page = openPage('/records/account/3', answers({ logActivity: entry({ id: 2 }) }));
    await page.user.click(await screen.findByRole('button', { name: 'Log contact' }));
    const form = within(await screen.findByRole('dialog', { name: 'Log contact' }));
    const save = form.getByRole('button', { name: 'Save' }) as HTMLButtonElement;
    expect(save.disabled).toBe(true);
    await page.choose(form.getByRole('combobox', { name: 'What was it' }), 'Letter');
    await page.choose(form.getByRole('combobox', { name: 'Direction' }), 'They reached us');
    await page.user.type(form.getByRole('textbox', { name: 'What was said' }), 'An order');
    await page.user.click(form.getByRole('checkbox', { name: 'Only I see it' }));
    await page.user.click(save);
    await screen.findByText('It is in the history.');
    const [body] = page.calls('logActivity').map((call) => call.body as Record<string, unknown>);
    expect(body).toMatchObject({
      kind: 'letter',
      direction: 'received',
      text: 'An order',
      isPrivate: true,
      records: [{ kind: 'account', id: 3 }],
    });
    expect(Math.abs(Date.parse(String(body?.at)) - Date.now())).toBeLessThan(120_000);
  });

  test('of others shows who changed what, and nothing to change; a refusal is told', async () => {
    const changes = [
      {
        at: '2026-05-04T12:00:00.000Z',
        before: { kind: 'note' as const, at: '2026-05-04T09:00:00.000Z', direction: null, text: 'As it was' },
      },
    ];
    logged = [entry({ isMine: false, changes })];
    openPage('/records/account/3', answers());
    const call = within(await screen.findByRole('article', { name: 'Call' }));
    call.getByText('changed once');
    call.getByText('As it was');
    expect(call.queryByRole('button', { name: 'Change' })).toBeNull();
    logged = [entry()];
    const page = openPage(
      '/records/account/3',
      answers({ changeActivity: new Refused(409, 'changed-meanwhile', 'This was changed in another window.') }),
    );
    const own = within((await screen.findAllByRole('article', { name: 'Call' })).at(-1) as HTMLElement);
    await page.user.click(own.getByRole('button', { name: 'Change' }));
    const form = within(await screen.findByRole('dialog', { name: 'Log contact' }));
    expect((form.getByRole('textbox', { name: 'What was said' }) as HTMLTextAreaElement).value).toBe('Talked about the gauge.');
    await page.user.click(form.getByRole('button', { name: 'Save' }));
    expect((await form.findByRole('alert')).textContent).toContain('changed in another window');
  });
});
