import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { readTodo, writtenTodo } from '@fulvet/core';
import type { ListState } from '@fulvet/core';
import type { MailStage } from '../../testing/mailboxTools';
import { connect, openMailStage, until } from '../../testing/mailboxTools';
import { routeTo } from '../../testing/routeTo';
import type { Answer, Crew } from '../../testing/testServer';
import { owner, setUpCrew } from '../../testing/testServer';

const REP = 'rep@quillmere.example';
let stage: MailStage;
let crew: Crew;
let box: number;
let list: number;

const as = (who: keyof Crew['tokens'], target: Parameters<typeof stage.server.call>[0], body?: unknown): Promise<Answer> =>
  stage.server.call(target, { token: crew.tokens[who], ...(body === undefined ? {} : { body }) });
const objects = (): Map<string, string> => {
  const found = stage.mailhost.store.accounts.get(REP)?.calendars.get('Tasks');
  if (!found) throw new Error('no list');
  return found;
};
const listed = (): ListState[] => [...objects().values()].map((text) => readTodo(text)?.state).filter((state) => state !== undefined);
const texts = (): string[] =>
  listed()
    .map(({ text }) => text)
    .sort();
const put = (name: string, state: Partial<ListState>, before: string | null = null): void => {
  const text = writtenTodo(before, name, { text: name, details: '', due: null, done: false, ...state }, Date.now());
  if (text !== null) objects().set(name, text);
};
/** Changes the to-do of a text, as another program does. */
function change(text: string, more: Partial<ListState>): void {
  for (const [name, object] of objects()) {
    const todo = readTodo(object);
    if (todo?.state.text === text) put(name, { ...todo.state, ...more }, object);
  }
}

/** Lets the list and the tasks become the same. */
async function sync(): Promise<{ code: string } | null> {
  const before = await owner(stage.server.ownerUrl, 'SELECT now()::text AS now');
  await owner(stage.server.ownerUrl, 'UPDATE calendars SET problem = NULL WHERE id = $1', [list]);
  expect((await as('rep', routeTo('readCalendar', { id: list }))).status).toBe(200);
  const [row] = await until(
    () =>
      owner(
        stage.server.ownerUrl,
        "SELECT problem FROM calendars WHERE id = $1 AND lease_until IS NULL AND next_at > $2::timestamptz + interval '1 minute' AND (read_at > $2::timestamptz OR problem IS NOT NULL)",
        [list, before[0]?.now],
      ),
    (rows) => rows.length > 0,
  );
  return (row?.problem ?? null) as { code: string } | null;
}
const tasks = async (query: object = {}): Promise<Answer['json'][]> => (await as('rep', routeTo('listTasks', query))).json.tasks;
const taskTexts = async (query: object = {}): Promise<string[]> => (await tasks(query)).map(({ text }) => text).sort();
const create = async (content: object): Promise<Answer['json']> => {
  const made = await as('rep', routeTo('createTask'), content);
  if (made.status !== 200) throw new Error(made.text);
  return made.json;
};
const changeTasks = (ids: number[], what: object): Promise<Answer> => as('rep', routeTo('changeTasks'), { ids, change: what });

beforeAll(async () => {
  stage = await openMailStage();
  crew = await setUpCrew(stage.server);
  box = await connect(stage, { token: crew.tokens.rep, address: REP });
  stage.mailhost.store.accounts.get(REP)?.calendars.set('Tasks', new Map());
  const found = await as('rep', routeTo('connectCalendars', { id: box }), { url: `${stage.mailhost.webUrl}/` });
  const calendar = found.json.calendars.find(({ kind }: { kind: string }) => kind === 'tasks');
  expect(calendar).toMatchObject({ name: 'Tasks', followed: false });
  list = calendar.id;
}, 180_000);
afterAll(() => stage.close(), 180_000);
beforeEach(async () => {
  objects().clear();
  await owner(stage.server.ownerUrl, 'DELETE FROM calendar_todos');
  await owner(stage.server.ownerUrl, 'DELETE FROM tasks');
});

describe('a list of to-dos', () => {
  test('shows a member’s tasks only once they choose it; no one chooses it for them', async () => {
    await create({ text: 'Call Ida' });
    expect((await as('admin', routeTo('followCalendar', { id: list }), { followed: true })).json.error.code).toMatch(/not-yours|not-found/);
    expect(texts()).toEqual([]);
    const followed = await as('rep', routeTo('followCalendar', { id: list }), { followed: true });
    expect(followed.status).toBe(200);
    await sync();
    expect(texts()).toEqual(['Call Ida']);
  });

  test('and tasks become the same, whichever side writes, changes, ends or removes', async () => {
    const [a, b] = [
      await create({ text: 'a', due: { day: '2026-12-24', time: '09:30', zone: 'Europe/Berlin' } }),
      await create({ text: 'b' }),
    ];
    put('elsewhere', { text: 'From the phone', due: '2026-12-25' });
    await sync();
    expect(texts()).toEqual(['From the phone', 'a', 'b']);
    expect(listed().find(({ text }) => text === 'a')?.due).toBe('2026-12-24T08:30:00.000Z');
    const [phone] = (await tasks()).filter(({ text }) => text === 'From the phone');
    expect(phone).toMatchObject({ isPrivate: true, due: { day: '2026-12-25', time: null, zone: 'Europe/Berlin' }, records: [] });
    expect((await as('manager', routeTo('listTasks', { who: 'all' }))).json.tasks.map(({ text }: { text: string }) => text)).not.toContain(
      'From the phone',
    );
    change('a', { text: 'a, on the quay', due: '2026-12-24T10:00:00.000Z' });
    change('b', { done: true });
    await changeTasks([phone.id], { day: '2026-12-31' });
    await sync();
    expect(await taskTexts()).toEqual(['From the phone', 'a, on the quay']);
    expect((await tasks()).find(({ id }) => id === a.id)?.due).toEqual({ day: '2026-12-24', time: '11:00', zone: 'Europe/Berlin' });
    expect(await taskTexts({ state: 'done' })).toEqual(['b']);
    expect(listed().find(({ text }) => text === 'From the phone')?.due).toBe('2026-12-31');
    await changeTasks([b.id], { done: false });
    await changeTasks([a.id], { removed: true });
    for (const [name, object] of objects()) if (readTodo(object)?.state.text === 'From the phone') objects().delete(name);
    await sync();
    expect(texts()).toEqual(['b']);
    expect(await taskTexts()).toEqual(['b']);
    const { json } = await as('rep', routeTo('listUndo'));
    expect(JSON.stringify(json)).toContain('From the phone');
  });

  test('takes a task that is handed over out of the list, and passes over what comes back or is done', async () => {
    const task = await create({ text: 'Hand over' });
    put('weekly', { text: 'Every week' });
    objects().set('weekly', (objects().get('weekly') ?? '').replace('END:VTODO', 'RRULE:FREQ=WEEKLY\r\nEND:VTODO'));
    put('old', { text: 'Long done', done: true });
    objects().set('broken', 'BEGIN:VCALENDAR\r\nBEGIN:VTODO\r\nnonsense');
    await sync();
    expect(await taskTexts()).toEqual(['Hand over']);
    await changeTasks([task.id], { assigneeId: crew.ids.other });
    await sync();
    expect(texts()).toEqual(['Every week', 'Long done']);
    expect(objects().has('broken')).toBe(true);
  });

  test('that is empty all at once removes nothing, and says so', async () => {
    for (let n = 0; n < 8; n += 1) await create({ text: `task ${n}` });
    await sync();
    expect(texts()).toHaveLength(8);
    objects().clear();
    expect(await sync()).toMatchObject({ code: 'most-gone' });
    expect(await taskTexts()).toHaveLength(8);
  });

  test('is known again after what was noted of it is lost: nothing stands twice', async () => {
    await create({ text: 'once' });
    await sync();
    await owner(stage.server.ownerUrl, 'DELETE FROM calendar_todos');
    change('once', { details: 'more' });
    await sync();
    await sync();
    expect([texts(), await taskTexts()]).toEqual([['once'], ['once']]);
  });

  test('and tasks that both sides change at random end the same, and stay so', async () => {
    let state = 5;
    const below = (limit: number): number => (state = (state * 48_271) % 2_147_483_647) % limit;
    let made = 0;
    for (let round = 0; round < 8; round += 1) {
      for (let deed = 0; deed < 5; deed += 1) {
        const name = `thing ${(made += 1)}`;
        const open = await tasks();
        const task = open[below(Math.max(1, open.length))];
        const day = `2027-01-${String(1 + below(28)).padStart(2, '0')}`;
        const what = below(6);
        if (what === 0) await create({ text: name });
        else if (what === 1) put(name, { text: name, details: below(2) ? 'x\ny' : '' });
        else if (task && what === 2) change(task.text, { done: true });
        else if (task && what === 3) change(task.text, { text: name, due: day });
        else if (task && what === 4) await changeTasks([task.id], { done: true });
        else if (task) await changeTasks([task.id], { day, zone: 'UTC' });
      }
      await sync();
      await sync();
      const open = listed()
        .filter(({ done }) => !done)
        .map(({ text, due }) => `${text} ${due ?? ''}`)
        .sort();
      expect((await tasks()).map(({ text, due }) => `${text} ${due?.day ?? ''}`).sort()).toEqual(open);
    }
    const before = [...objects()];
    await sync();
    expect([...objects()]).toEqual(before);
  }, 120_000);

  test('ends with the mailbox in other hands', async () => {
    await create({ text: 'Mine' });
    await owner(stage.server.ownerUrl, 'UPDATE mailboxes SET owner_id = $1 WHERE id = $2', [crew.ids.other, box]);
    await owner(stage.server.ownerUrl, 'UPDATE calendars SET next_at = now(), problem = NULL WHERE id = $1', [list]);
    await as('admin', routeTo('readCalendar', { id: list }));
    await until(
      () => owner(stage.server.ownerUrl, 'SELECT problem FROM calendars WHERE id = $1 AND problem IS NOT NULL', [list]),
      (rows) => rows.length > 0,
    );
    expect(texts()).toEqual([]);
    await owner(stage.server.ownerUrl, 'UPDATE mailboxes SET owner_id = $1 WHERE id = $2', [crew.ids.rep, box]);
  });
});
