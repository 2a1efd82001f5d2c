import { routeTo } from '../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import { until } from '../testing/mailboxTools';
import type { Answer } from '../testing/testServer';
import { decisions, importMail, mbox, owner } from '../testing/testServer';
import { server, crew, rep, admin, US, mail, idOf } from '../testing/recordsStage';

const edit = async (kind: string, name: string, values: Record<string, string>): Promise<Answer> =>
  rep(routeTo('editRecord', { kind, id: await idOf(kind, name) }), { values });

describe('a record', () => {
  test('is created and changed field by field; the changes are noted with before and after', async () => {
    const made = await rep(routeTo('createRecord', { kind: 'contact' }), {
      values: { name: 'Jo Lund', emails: 'jo@harbour.example;jo.lund@freemail.example', account: 'harbour oriel', phone: '+44 1' },
    });
    expect(made.status).toBe(200);
    const changed = await rep(routeTo('editRecord', { kind: 'contact', id: made.json.id }), { values: { title: 'Pilot', owner: US } });
    const field = (key: string) => changed.json.fields.find((item: { key: string }) => item.key === key);
    expect(field('title').value).toBe('Pilot');
    expect(field('emails').value).toBe('jo@harbour.example;jo.lund@freemail.example');
    expect(field('owner')).toMatchObject({ value: US, shown: 'rep person' });
    const { changes } = (await rep(routeTo('recordChanges', { kind: 'contact', id: made.json.id }))).json;
    expect(changes.map(({ field: name, before, after, by }: Record<string, string>) => ({ name, before, after, by }))).toEqual([
      { name: 'owner', before: '', after: US, by: 'rep person' },
      { name: 'title', before: '', after: 'Pilot', by: 'rep person' },
      { name: 'record', before: '', after: 'created as Jo Lund', by: 'rep person' },
    ]);
  });

  test.each([
    ['contact', 'Ida Brandt', { emails: 'jo@harbour.example' }, 'taken', 'Jo Lund'],
    ['contact', 'Ida Brandt', { emails: 'me@quillmere.example' }, 'bad-input', 'one of ours'],
    ['contact', 'Ida Brandt', { account: 'Nowhere' }, 'bad-input', 'not known'],
    ['contact', 'Ida Brandt', { name: ' ' }, 'bad-input', 'name is missing'],
    ['contact', 'Ida Brandt', { shoe: '43' }, 'bad-input', 'no field'],
    ['contact', 'Ida Brandt', { owner: 'nobody@quillmere.example' }, 'bad-input', 'not on the team'],
    ['account', 'Tidewise', { domains: 'gmail.com' }, 'bad-input', 'public mail provider'],
    ['account', 'Tidewise', { name: 'HARBOUR ORIEL' }, 'taken', 'already'],
    ['account', 'Tidewise', { parent: 'Tidewise' }, 'bad-input', 'above itself'],
    ['deal', 'Outer harbour', { amount: 'much' }, 'bad-input', 'not an amount'],
  ] as const)('refuses what cannot be (%s %s, %j), saying why', async (kind, name, values, code, words) => {
    const before = await owner(server.ownerUrl, `SELECT to_jsonb(t) AS row FROM ${kind}s t ORDER BY id`);
    const refused = await edit(kind, name, values);
    expect(refused.json.error.code).toBe(code);
    expect(refused.json.error.message).toContain(words);
    expect(await owner(server.ownerUrl, `SELECT to_jsonb(t) AS row FROM ${kind}s t ORDER BY id`)).toEqual(before);
  });

  test('that gains an address gains its mail', async () => {
    await importMail(server, crew.tokens.admin, US, { 'kim.mbox': mbox([mail('from-kim', 2, { from: 'kim@unknown.example' })]) });
    await edit('contact', 'Jo Lund', { emails: 'jo@harbour.example;kim@unknown.example' });
    await until(
      async () => (await decisions(server, crew.tokens.rep))['from-kim'].filings.map((filing: { name: string }) => filing.name),
      (names: string[]) => names.includes('Jo Lund'),
    );
  });

  test('of viewers is only read', async () => {
    const refused = await server.call(routeTo('editRecord', { kind: 'contact', id: await idOf('contact', 'Jo Lund') }), {
      token: crew.tokens.viewer,
      body: { values: { title: 'X' } },
    });
    expect(refused.status).toBe(403);
  });
});

describe('deals', () => {
  test('follow the stages: a renamed one takes them along, one in use cannot go, a closing one closes', async () => {
    const set = await admin(routeTo('setDealStages'), {
      stages: [
        { id: null, name: 'Quoted', open: true },
        { id: null, name: 'Won', open: false },
      ],
    });
    const [quoted, won] = set.json.stages;
    await admin(routeTo('setDealStages'), { stages: [{ ...quoted, name: 'Offered' }, won] });
    const shown = async () =>
      Object.fromEntries(
        (await rep(routeTo('getRecord', { kind: 'deal', id: await idOf('deal', 'Outer harbour') }))).json.fields.map(
          (field: { key: string; value: string }) => [field.key, field.value],
        ),
      );
    expect((await shown()).stage).toBe('Offered');
    expect((await admin(routeTo('setDealStages'), { stages: [won] })).json.error).toMatchObject({ code: 'in-use' });
    await edit('deal', 'Outer harbour', { stage: 'Won' });
    expect(await shown()).toMatchObject({ stage: 'Won', open: 'no', closed_on: new Date().toISOString().slice(0, 10) });
    await edit('deal', 'Outer harbour', { stage: 'Offered' });
    expect(await shown()).toMatchObject({ open: 'yes', closed_on: '' });
  });

  test('have people with roles', async () => {
    const deal = await idOf('deal', 'Outer harbour');
    const people = [
      { kind: 'contact', id: await idOf('contact', 'Ravi Sen'), role: 'sells on' },
      { kind: 'contact', id: await idOf('contact', 'Jo Lund') },
    ];
    const set = await rep(routeTo('setDealPeople', { id: deal }), { people });
    expect(set.json.people.map((person: { name: string; role: string }) => [person.name, person.role])).toEqual([
      ['Jo Lund', ''],
      ['Ravi Sen', 'sells on'],
    ]);
    expect((await rep(routeTo('recordChanges', { kind: 'deal', id: deal }))).json.changes[0]).toMatchObject({
      field: 'people',
      before: 'Ravi Sen',
      after: 'Jo Lund, Ravi Sen (sells on)',
    });
    expect((await rep(routeTo('setDealPeople', { id: deal }), { people: [{ kind: 'lead', id: 999_999 }] })).status).toBe(404);
  });
});

test.each([
  'name',
  'lastEmail',
  'emails',
  'in',
  'out',
  'unanswered',
  'amount',
  'stage',
  'owner',
  'account',
  'created',
  'detail',
  'code',
  'addresses',
  'quiet',
  'by',
])('tables are in order of %s, either way', async (sort) => {
  for (const kind of ['contact', 'lead', 'account', 'deal']) {
    const found = async (descending: string) => (await rep(routeTo('listRecords', { kind, sort, descending }))).json;
    const [up, down] = [await found('no'), await found('yes')];
    const ids = (page: { records: { id: number }[] }): number[] =>
      page.records.map((record) => record.id).sort((first, second) => first - second);
    expect(ids(up)).toEqual(ids(down));
  }
});

describe('the numbers', () => {
  test('of a history, of the table and beside it are those of the exported mail', async () => {
    const account = await idOf('account', 'Harbour Oriel');
    const deal = await idOf('deal', 'Outer harbour');
    const exported = Object.values(await decisions(server, crew.tokens.rep)).filter((value) =>
      value.filings.some(
        (it: { kind: string; id: number }) => (it.kind === 'account' && it.id === account) || (it.kind === 'deal' && it.id === deal),
      ),
    );
    const counted = {
      emails: exported.length,
      emailsIn: exported.filter((item) => item.direction === 'received').length,
      emailsOut: exported.filter((item) => item.direction === 'sent').length,
      conversations: new Set(exported.map((item) => item.conversation)).size,
      lastEmailAt: exported
        .map((item) => new Date(item.date).toISOString())
        .sort()
        .at(-1),
    };
    expect(counted.emails).toBeGreaterThan(6);
    const row = (await rep(routeTo('listRecords', { kind: 'account', text: 'oriel' }))).json.records[0];
    const detail = (await rep(routeTo('getRecord', { kind: 'account', id: account }))).json;
    const insights = (await rep(routeTo('getInsights', { kind: 'account', id: account }))).json;
    const history = (await rep(routeTo('getHistory', { kind: 'account', id: account, limit: 50 }))).json;
    for (const shown of [row, detail, insights.figures]) expect(shown).toMatchObject(counted);
    expect(history.found).toEqual({ conversations: counted.conversations, emails: counted.emails, events: 0 });
    expect(history.conversations.flatMap((conversation: { emails: unknown[] }) => conversation.emails)).toHaveLength(counted.emails);
    expect(insights.months.reduce((sum: number, month: { sent: number; received: number }) => sum + month.sent + month.received, 0)).toBe(
      counted.emailsIn + counted.emailsOut,
    );
  });

  test('say what is not answered, how long answers take, who knows whom, and when they meet', async () => {
    const insights = (await rep(routeTo('getInsights', { kind: 'contact', id: await idOf('contact', 'Ida Brandt') }))).json;
    expect(insights.unanswered.map((item: { subject: string }) => item.subject)).toEqual(['again']);
    expect(insights.figures.unanswered).toBe(1);
    expect(insights.acquaintances).toEqual([
      expect.objectContaining({ colleague: 'rep person', person: 'Ida Brandt', sent: 2, received: 4, strength: 'somewhat' }),
    ]);
    expect(insights.meeting).toMatchObject({ summary: 'Site visit', at: '2099-05-04T09:00:00.000Z' });
    const meetings = [
      {
        summary: 'Site visit',
        location: '',
        startsAt: '2099-05-04T09:00:00.000Z',
        endsAt: '2099-05-04T10:00:00.000Z',
        cancelled: false,
        answers: {},
      },
    ];
    expect((await rep(routeTo('getEmail', { id: insights.meeting.emailId }))).json.content.meetings).toEqual(meetings);
    const history = (await rep(routeTo('getHistory', { kind: 'account', id: await idOf('account', 'Harbour Oriel') }))).json;
    const emails = history.conversations.flatMap((item: { emails: { id: number }[] }) => item.emails) as {
      id: number;
      content: { meetings: unknown[] } | null;
    }[];
    expect(emails.find(({ id }) => id === insights.meeting.emailId)?.content?.meetings).toEqual(meetings);
    expect(emails.filter(({ content }) => content?.meetings.length === 0).length).toBeGreaterThan(0);
  });

  test('filter the table: what waits for an answer, what is quiet', async () => {
    const names = async (query: string): Promise<string[]> =>
      (await rep(routeTo('listRecords', { kind: 'contact', ...Object.fromEntries(new URLSearchParams(query)) }))).json.records.map(
        (record: { name: string }) => record.name,
      );
    expect(await names('unanswered=yes&sort=name')).toEqual(['Ida Brandt', 'Jo Lund', 'Ravi Sen']);
    expect(await names('quiet=4')).toEqual(['Ravi Sen']);
    expect(await names('sort=in&descending=yes')).toEqual(expect.arrayContaining(['Ida Brandt']));
  });

  test('are exported as the list shows them', async () => {
    const { text } = await rep(routeTo('exportRecords', { kind: 'contact', columns: 'list', quiet: 4, sort: 'name' }));
    const [head, ...lines] = text.trim().split('\n');
    expect(head).toContain('emails in,emails out,conversations,last email,last by,unanswered');
    expect(lines).toHaveLength(1);
    expect(lines[0]).toMatch(/^\d+,Ravi Sen,ravi@tidewise\.example,Tidewise,.*,1,1,0,1,/);
  });

  test('of a history follow its filters', async () => {
    const id = await idOf('contact', 'Ida Brandt');
    const found = async (query: string): Promise<number> =>
      (await rep(routeTo('getHistory', { kind: 'contact', id, ...Object.fromEntries(new URLSearchParams(query)) }))).json.found.emails;
    expect(await found('direction=sent')).toBe(2);
    expect(await found('text=barnacle')).toBe(1);
    expect(await found(`until=${new Date(Date.now() - 100 * 86_400_000).toISOString().slice(0, 10)}`)).toBe(1);
    expect(await found('person=ida@harbour.example')).toBe(await found(''));
    expect(await found('person=ravi@tidewise.example')).toBe(0);
    expect(await found(`colleague=${crew.ids.rep}`)).toBe(await found(''));
    expect(await found(`colleague=${crew.ids.other}`)).toBe(0);
    expect((await rep(routeTo('getDomainHistory', { domain: 'harbour.example' }))).json.found.emails).toBe(await found(''));
    expect((await rep(routeTo('getDomainInsights', { domain: 'harbour.example' }))).json.figures.emails).toBe(await found(''));
  });
});
