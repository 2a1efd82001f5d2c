import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { good } from '../testing/documentTools';
import { routeTo } from '../testing/routeTo';
import type { Answer, Crew, TestServer } from '../testing/testServer';
import { changeRulebook, importMail, importRecords, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const REP = 'rep@quillmere.example';
const IDA = 'Ida Brandt <ida@harbour.example>';
const DAY_MS = 86_400_000;
const dayFrom = (days: number): string => new Date(Date.now() + days * DAY_MS).toISOString().slice(0, 10);
const due = (days: number, time: string | null = null) => ({ day: dayFrom(days), time, zone: 'UTC' });
let server: TestServer;
let crew: Crew;
let ids: Record<string, number>;
let question: number;

const mail = (id: string, hoursAgo: number, more: object = {}) => ({
  id: `${id}@harbour.example`,
  from: IDA,
  to: REP,
  subject: 'How deep is the gate?',
  date: new Date(Date.now() - hoursAgo * 3_600_000).toUTCString(),
  ...more,
});

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const admin = crew.tokens.admin;
  await importRecords(server, admin, 'account', 'name,domains\nHarbour Works,harbour.example\n');
  await importRecords(server, admin, 'contact', 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Works\n');
  await changeRulebook(server, admin, (rulebook) => (rulebook.share.level = 'everyone'));
  await importMail(server, admin, REP, { 'rep.mbox': mbox([mail('question', 48)]) });
  const rows = await owner(server.ownerUrl, 'SELECT name, id::int FROM accounts UNION ALL SELECT name, id::int FROM contacts');
  ids = Object.fromEntries(rows.map((row) => [String(row.name), Number(row.id)]));
  question = Number((await owner(server.ownerUrl, 'SELECT id FROM emails'))[0]?.id);
}, 90_000);
afterAll(() => server.remove());

const ida = () => ({ kind: 'contact', id: ids['Ida Brandt'] });
const create = async (content: object, token = crew.tokens.rep): Promise<Answer['json']> =>
  good(await server.call(routeTo('createTask'), { token, body: content }));
const list = async (query: object = {}, token = crew.tokens.rep): Promise<Answer['json'][]> =>
  good(await server.call(routeTo('listTasks', query), { token })).tasks;
const texts = async (query: object = {}, token = crew.tokens.rep): Promise<string[]> => (await list(query, token)).map(({ text }) => text);
const change = (tasks: readonly number[], what: object, token = crew.tokens.rep): Promise<Answer> =>
  server.call(routeTo('changeTasks'), { token, body: { ids: tasks, change: what } });
const undo = (id: number, token = crew.tokens.rep): Promise<Answer> => server.call(routeTo('undo', { id }), { token });
const clear = (): Promise<unknown> => owner(server.ownerUrl, 'DELETE FROM tasks');

describe('a task', () => {
  test('is listed by when it is late, on its record and on the account, and today’s are at home', async () => {
    await create({ text: 'Later', due: due(3), records: [ida()] });
    await create({ text: 'No day' });
    await create({ text: 'Today', due: due(0) });
    await create({ text: 'Late', due: due(-2, '09:00') });
    expect(await texts()).toEqual(['Late', 'Today', 'Later', 'No day']);
    expect(await texts({ due: 'now' })).toEqual(['Late', 'Today']);
    expect(await texts({ record: `contact:${ids['Ida Brandt']}` })).toEqual(['Later']);
    expect(await texts({ record: `account:${ids['Harbour Works']}` })).toEqual(['Later']);
    const { tasks } = good(await server.call(routeTo('getArrival'), { token: crew.tokens.rep }));
    expect(tasks.map(({ text }: { text: string }) => text)).toEqual(['Late', 'Today']);
    const first = good(await server.call(routeTo('listTasks', { limit: 3 }), { token: crew.tokens.rep }));
    expect(first.tasks).toHaveLength(3);
    expect(await texts({ limit: 3, after: first.next })).toEqual(['No day']);
    const taken = await server.call(routeTo('exportTasks'), { token: crew.tokens.rep });
    expect(taken.headers.get('content-type')).toContain('text/calendar');
    expect(taken.text.match(/^SUMMARY:.*$/gm)).toEqual(['SUMMARY:Late', 'SUMMARY:Today', 'SUMMARY:Later', 'SUMMARY:No day']);
    expect((await server.call(routeTo('exportTasks'), { token: crew.tokens.other })).text).not.toContain('SUMMARY');
    await clear();
  });

  test.each([
    [{ text: '' }, 'text'],
    [{ text: 'x', repeat: { every: 1, unit: 'week' } }, 'due'],
    [{ text: 'x', due: { day: '2026-02-30', zone: 'UTC' } }, 'due.day'],
    [{ text: 'x', due: { day: '2026-02-03', time: '25:00', zone: 'UTC' } }, 'due.time'],
    [{ text: 'x', due: { day: '2026-02-03', zone: 'Nowhere/At-all' } }, 'due.zone'],
    [{ text: 'x', endsBy: 'meeting', records: [] }, 'records'],
  ])('%j is refused at its field', async (content, field) => {
    const answer = await server.call(routeTo('createTask'), { token: crew.tokens.rep, body: content });
    expect([answer.status, Object.keys(answer.json.error.fields)]).toEqual([422, [field]]);
  });

  test('is for a member who does such things, about records and emails that its writer sees', async () => {
    const refused = async (content: object, token = crew.tokens.rep): Promise<number> =>
      (await server.call(routeTo('createTask'), { token, body: { text: 'x', ...content } })).status;
    expect(await refused({ assigneeId: crew.ids.viewer })).toBe(422);
    expect(await refused({ records: [{ kind: 'deal', id: 999 }] })).toBe(404);
    expect(await refused({ emailId: 99_999 })).toBe(404);
    expect(await refused({}, crew.tokens.viewer)).toBe(403);
  });

  test('that came from an email has its subject and records', async () => {
    const task = await create({ emailId: question });
    expect(task).toMatchObject({ text: 'How deep is the gate?', email: { id: question } });
    expect(task.records.map(({ name }: { name: string }) => name)).toContain('Ida Brandt');
    expect(await texts({ emailId: question })).toEqual(['How deep is the gate?']);
    await clear();
  });

  test('is changed by who does it, who wrote it, or a manager, and not over the change of another', async () => {
    const task = await create({ text: 'Call', assigneeId: crew.ids.other, records: [ida()] });
    const save = (content: object, token: string, revision: number): Promise<Answer> =>
      server.call(routeTo('saveTask', { id: task.id }), { token, body: { revision, content } });
    expect(good(await save({ text: 'Call again', records: [] }, crew.tokens.other, 0))).toMatchObject({ text: 'Call again', revision: 1 });
    expect((await save({ text: 'x' }, crew.tokens.rep, 0)).json.error.code).toBe('changed-meanwhile');
    expect((await save({ text: 'x' }, crew.tokens.manager, 1)).status).toBe(404);
    good(await save({ text: 'Call', records: [ida()] }, crew.tokens.rep, 1));
    good(await save({ text: 'Call today', records: [ida()] }, crew.tokens.manager, 2));
    await clear();
  });
});

describe('tasks that are changed at once', () => {
  test('are done, moved, handed over and removed, as one step that is undone', async () => {
    const made: number[] = [];
    for (const text of ['a', 'b', 'c']) made.push((await create({ text, due: due(0, '10:00') })).id);
    const moved = good(await change(made, { day: dayFrom(5), assigneeId: crew.ids.other }));
    expect(moved).toMatchObject({ changed: 3, kept: [] });
    expect((await list({}, crew.tokens.other)).map(({ due: at }) => at)).toEqual(Array(3).fill(due(5, '10:00')));
    good(await change([made[0] ?? 0], { done: true }, crew.tokens.other));
    expect(good(await undo(moved.undo))).toEqual({
      changed: 2,
      kept: [{ kind: 'task', id: made[0], name: 'a', because: 'it was changed again since' }],
    });
    expect(await texts()).toEqual(['b', 'c']);
    const removed = good(await change(made, { removed: true }));
    expect(await texts({ who: 'all' })).toEqual([]);
    good(await undo(removed.undo));
    expect(await texts()).toEqual(['b', 'c']);
    expect(await texts({ state: 'done', who: 'all' })).toEqual(['a']);
    await clear();
  });

  test('stay as they are where they are someone else’s', async () => {
    const theirs = await create({ text: 'Theirs', records: [ida()] }, crew.tokens.other);
    const hidden = await create({ text: 'Hidden', records: [ida()], isPrivate: true }, crew.tokens.other);
    const answer = good(await change([theirs.id, hidden.id], { done: true }));
    expect(answer).toEqual({
      changed: 0,
      kept: [{ id: theirs.id, name: 'Theirs', because: 'it is someone else’s to change' }],
      undo: null,
      next: [],
    });
    expect(good(await change([theirs.id, hidden.id], { done: true }, crew.tokens.manager)).changed).toBe(1);
    await clear();
  });

  test('come back where they repeat, once, and not any more when that is undone', async () => {
    const weekly = await create({ text: 'Report', due: due(-1, '09:00'), repeat: { every: 1, unit: 'week' }, records: [ida()] });
    const done = good(await change([weekly.id], { done: true }));
    expect(done.next).toMatchObject([{ text: 'Report', due: due(6, '09:00'), records: [{ name: 'Ida Brandt' }] }]);
    expect(good(await change([weekly.id], { done: true })).changed).toBe(0);
    expect(await texts()).toEqual(['Report']);
    good(await undo(done.undo));
    expect((await list()).map(({ id }) => id)).toEqual([weekly.id]);
    await clear();
  });
});

describe('a task ends by itself', () => {
  const filed = async (name: string, hoursAgo: number, more: object): Promise<void> => {
    await importMail(server, crew.tokens.admin, REP, { [`${name}.mbox`]: mbox([mail(name, hoursAgo, more)]) });
  };
  const answerTo = (message: string) => ({ 'In-Reply-To': `<${message}@harbour.example>` });

  test('when one of us answers, or they do; an absence note is no answer, and what was opened again waits for nothing', async () => {
    const ours = await create({ emailId: question, endsBy: 'our answer' });
    const theirs = await create({ emailId: question, endsBy: 'their answer' });
    await filed('away', 40, { subject: 'Automatic reply: gate', headers: { ...answerTo('question'), 'Auto-Submitted': 'auto-replied' } });
    expect(await list()).toHaveLength(2);
    await filed('ours', 30, { from: REP, to: IDA, subject: 'Re: How deep is the gate?', headers: answerTo('question') });
    expect((await list()).map(({ id }) => id)).toEqual([theirs.id]);
    const [ended] = await list({ state: 'done' });
    expect(ended).toMatchObject({ id: ours.id, done: { by: null } });
    expect((await owner(server.ownerUrl, 'SELECT message_id FROM emails WHERE id = $1', [ended.done.emailId]))[0]?.message_id).toContain(
      'ours',
    );
    await filed('theirs', 20, { subject: 'Re: How deep is the gate?', headers: answerTo('ours') });
    expect(await list()).toEqual([]);
    good(await change([ours.id], { done: false }));
    expect(await list()).toMatchObject([{ id: ours.id, endsBy: null, done: null }]);
    await clear();
  });

  test('when contact is logged, and is open again when the entry is removed', async () => {
    await create({ text: 'Wait for the order', endsBy: 'their answer', records: [ida()] });
    const log = (direction: string): Promise<Answer> =>
      server.call(routeTo('logActivity'), {
        token: crew.tokens.other,
        body: { kind: 'call', at: new Date().toISOString(), direction, text: 'Called', records: [ida()] },
      });
    good(await log('sent'));
    expect(await texts()).toEqual(['Wait for the order']);
    const { id } = good(await log('received'));
    expect(await list()).toEqual([]);
    good(await server.call(routeTo('removeActivity', { id }), { token: crew.tokens.other, body: { removed: true } }));
    expect(await texts()).toEqual(['Wait for the order']);
    await clear();
  });

  /** An email becomes an event of a calendar, of tomorrow. */
  async function inCalendar(message: string, occursAt: string | null): Promise<void> {
    await filed(message, 10, { subject: message });
    await owner(
      server.ownerUrl,
      `WITH event AS (UPDATE emails SET mail_class = 'event', sent_at = now() + interval '1 day' WHERE message_id LIKE $1 || '%' RETURNING id)
       INSERT INTO meetings (email_id, uid, occurs_at, sequence, cancelled, starts_at, ends_at, summary, location)
       SELECT id, $1, $2::timestamptz, 0, false, now() + interval '1 day', now() + interval '25 hours', '', '' FROM event`,
      [message, occursAt],
    );
  }

  test('when a meeting is arranged, not when the next of those that recur comes in', async () => {
    await create({ text: 'Arrange a visit', endsBy: 'meeting', records: [ida()] });
    await inCalendar('weekly', '2030-01-01T00:00:00Z');
    expect(await texts()).toEqual(['Arrange a visit']);
    await inCalendar('visit', null);
    expect(await list()).toEqual([]);
    await clear();
  });
});

describe('who sees a task', () => {
  test('follows its records and its email, in a random world', async () => {
    await owner(server.ownerUrl, `UPDATE workspace SET record_reach = 'owner'`);
    const members = ['rep', 'other', 'manager'] as const;
    const contacts = await owner(
      server.ownerUrl,
      `INSERT INTO contacts (name, owner_id) SELECT 'World ' || n, CASE WHEN n % 3 = 0 THEN NULL ELSE (ARRAY[$1, $2]::bigint[])[1 + n % 2] END FROM generate_series(1, 8) n RETURNING id::int`,
      [crew.ids.rep, crew.ids.other],
    );
    const emails = [question, null, 999_999];
    let state = 11;
    const below = (limit: number): number => (state = (state * 48_271) % 2_147_483_647) % limit;
    const reach = new Map<string, Set<number>>();
    const reads = new Map<string, boolean>();
    for (const who of members) {
      const { records } = good(await server.call(routeTo('listRecords', { kind: 'contact', limit: 200 }), { token: crew.tokens[who] }));
      reach.set(who, new Set(records.map(({ id }: { id: number }) => id)));
      const email = await server.call(routeTo('getEmail', { id: question }), { token: crew.tokens[who] });
      reads.set(who, email.status === 200 && email.json.content !== null);
    }
    const world = Array.from({ length: 60 }, (_, at) => ({
      text: `Task ${at}`,
      writer: members[below(3)] ?? 'rep',
      assignee: members[below(3)] ?? 'rep',
      isPrivate: below(3) === 0,
      removed: below(6) === 0,
      email: emails[below(3)] ?? null,
      about: [...new Set([contacts[below(8)]?.id, contacts[below(8)]?.id].map(Number))].slice(below(3)),
    }));
    for (const { text, writer, assignee, isPrivate, removed, email, about } of world)
      await owner(
        server.ownerUrl,
        `WITH t AS (INSERT INTO tasks (text, writer_id, assignee_id, is_private, removed_at, email_id) VALUES ($1, $2, $3, $4, CASE WHEN $5 THEN now() END, $6) RETURNING id)
         INSERT INTO task_records (task_id, kind, record_id) SELECT t.id, 'contact', r FROM t, unnest($7::bigint[]) r`,
        [text, crew.ids[writer], crew.ids[assignee], isPrivate, removed, email, about],
      );
    const counts: number[] = [];
    for (const who of members) {
      const expected = world.filter(({ writer, assignee, isPrivate, removed, email, about }) => {
        if (removed) return false;
        if (writer === who || assignee === who) return true;
        const mayRead = email === null || (email === question && reads.get(who));
        return !isPrivate && mayRead === true && about.some((id) => reach.get(who)?.has(id));
      });
      expect((await texts({ who: 'all' }, crew.tokens[who])).sort()).toEqual(expected.map(({ text }) => text).sort());
      counts.push(expected.length);
    }
    expect(Math.min(...counts)).toBeGreaterThan(5);
    expect(Math.min(...counts)).toBeLessThan(world.filter(({ removed }) => !removed).length);
    await owner(server.ownerUrl, `UPDATE workspace SET record_reach = 'all'`);
    await clear();
  });
});
