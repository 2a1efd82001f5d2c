import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { until } from '../testing/mailboxTools';
import type { Answer, Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, decisions, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
const rep = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.rep, body });
const admin = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.admin, body });
const US = 'rep@quillmere.example';
const ago = (days: number): string => new Date(Date.now() - days * 86_400_000).toUTCString().replace('GMT', '+0000');
const mail = (id: string, days: number, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: 'Ida Brandt <ida@harbour.example>',
  to: US,
  subject: id,
  date: ago(days),
  ...more,
});
const answer = (id: string, days: number, to: string, more: Partial<PlainEmail> = {}): PlainEmail =>
  mail(id, days, { from: `Rep Person <${US}>`, to, ...more });

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains,type\nHarbour Oriel,harbour.example,customer\nTidewise,tidewise.example,reseller\n',
  });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\nRavi Sen,ravi@tidewise.example,Tidewise\n',
  });
  await admin(routeTo('importRecords', { kind: 'deal' }), {
    text: 'code,name,account,people,stage,amount,currency\nQH-1001,Outer harbour,Harbour Oriel,ravi@tidewise.example,Quoted,12000,EUR\n',
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  const invitation =
    'BEGIN:VCALENDAR\r\nMETHOD:REQUEST\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:visit\r\nSEQUENCE:0\r\nDTSTART:20990504T090000Z\r\nDTEND:20990504T100000Z\r\nSUMMARY:Site visit\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n';
  await importMail(server, crew.tokens.admin, US, {
    'rep.mbox': mbox([
      mail('asked', 30),
      answer('answered', 29, 'ida@harbour.example', { references: '<asked>' }),
      mail('thanks', 28, { references: '<asked>', text: 'the barnacle report' }),
      mail('again', 27, { references: '<asked>' }),
      answer('offer', 10, 'ida@harbour.example'),
      mail('quiet', 200),
      mail('through-reseller', 5, { from: 'Ravi Sen <ravi@tidewise.example>', subject: 'QH-1001 order' }),
      mail('invitation', 3, { headers: 'Content-Type: text/calendar; method=REQUEST; charset=utf-8', text: invitation }),
    ]),
  });
}, 60_000);
afterAll(() => server.remove());

async function idOf(kind: string, name: string): Promise<number> {
  const [row] = await owner(server.ownerUrl, `SELECT id FROM ${kind}s WHERE name = $1`, [name]);
  return Number(row?.id);
}
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

describe('own fields', () => {
  beforeAll(async () => {
    await admin(routeTo('setOwnFields', { kind: 'account' }), {
      fields: [
        { label: 'Région', type: 'choice', choices: ['North', 'South'] },
        { label: 'Gauges', type: 'number' },
        { label: 'Renewal', type: 'date' },
        { label: 'Key account', type: 'yesNo' },
        { label: 'Name', type: 'text' },
      ],
    });
  });

  test('are for administrators to set; a label that is a field already gets a key of its own', async () => {
    expect((await rep(routeTo('setOwnFields', { kind: 'account' }), { fields: [] })).status).toBe(403);
    const { ownFields } = (await rep(routeTo('getRecordSetup'))).json;
    expect(ownFields.account.map((item: { key: string }) => item.key)).toEqual(['region', 'gauges', 'renewal', 'key_account', 'name_2']);
  });

  test('take values of their type only, and are sorted, filtered and exported', async () => {
    expect((await edit('account', 'Tidewise', { region: 'West' })).json.error.message).toContain('North, South');
    expect((await edit('account', 'Tidewise', { gauges: 'many' })).status).toBe(422);
    expect((await edit('account', 'Tidewise', { renewal: '4 May' })).status).toBe(422);
    await edit('account', 'Tidewise', { region: 'north', gauges: '9', renewal: '2026-05-04', key_account: 'yes' });
    await edit('account', 'Harbour Oriel', { region: 'South', gauges: '12' });
    const names = async (query: string): Promise<string[]> =>
      (await rep(routeTo('listRecords', { kind: 'account', ...Object.fromEntries(new URLSearchParams(query)) }))).json.records.map(
        (record: { name: string }) => record.name,
      );
    expect(await names('sort=own:gauges&descending=yes')).toEqual(['Harbour Oriel', 'Tidewise']);
    expect(await names('own=region:North')).toEqual(['Tidewise']);
    expect(await names('own=key_account:yes')).toEqual(['Tidewise']);
    const { text } = await rep(routeTo('exportRecords', { kind: 'account' }));
    expect(text).toContain('region,gauges,renewal,key_account');
    expect(text).toContain('Tidewise,tidewise.example,,reseller,,North,9,2026-05-04,yes');
  });

  test('are asked for by rules', async () => {
    await changeRulebook(server, crew.tokens.admin, (rulebook) => {
      rulebook.share.rules = [
        {
          id: 'south',
          name: '',
          note: '',
          on: true,
          appliesTo: { mailboxes: [], users: [], teams: [] },
          when: { fact: 'record', test: { field: 'own', of: 'account', key: 'region', test: { in: ['south'] } } },
          then: { do: 'owner' },
        },
      ] as never;
    });
    await decideAll(server, crew.tokens.admin);
    const found = await decisions(server, crew.tokens.rep);
    expect([found.asked.visibility, found['through-reseller'].visibility]).toEqual(['owner', 'everyone']);
    await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.rules = []));
    await decideAll(server, crew.tokens.admin);
  });

  test('that change their type keep what can be read as the new one', async () => {
    const { ownFields } = (await rep(routeTo('getRecordSetup'))).json;
    const fields = ownFields.account
      .map((item: { key: string }) => (item.key === 'gauges' ? { ...item, type: 'text' } : item))
      .filter((item: { key: string }) => item.key !== 'region');
    await admin(routeTo('setOwnFields', { kind: 'account' }), { fields });
    const [row] = await owner(server.ownerUrl, `SELECT own FROM accounts WHERE name = 'Tidewise'`);
    expect(row?.own).toEqual({ gauges: '9', renewal: '2026-05-04', key_account: true });
  });
});

describe('a file of records', () => {
  beforeAll(async () => {
    await admin(routeTo('setOwnFields', { kind: 'lead' }), {
      fields: [
        { label: 'Source', type: 'choice', choices: ['Fair', 'Web'] },
        { label: 'Budget', type: 'number' },
      ],
    });
  });

  test('fills own fields by their names, and names the line where a value cannot be read', async () => {
    const text =
      'name,emails,Source,budget\nLea Ost,lea@dredge.example,fair,"1 200"\nNed Ash,ned@dredge.example,Radio,1\nKim Aster,kim@dredge.example,,much\n';
    const preview = (await rep(routeTo('previewRecords', { kind: 'lead' }), { text })).json;
    expect(preview.columns.map((column: { field: string }) => column.field)).toEqual(['name', 'emails', 'source', 'budget']);
    expect(preview.bad).toEqual([
      { line: 3, reason: '“Radio” is none of the choices of Source: Fair, Web.' },
      { line: 4, reason: '“much” is not a number for Budget.' },
    ]);
    await rep(routeTo('importRecords', { kind: 'lead' }), { text });
    expect(await owner(server.ownerUrl, `SELECT own FROM leads WHERE name = 'Lea Ost'`)).toEqual([
      { own: { source: 'Fair', budget: 1200 } },
    ]);
    const { changes } = (await rep(routeTo('recordChanges', { kind: 'lead', id: await idOf('lead', 'Lea Ost') }))).json;
    expect(changes.map((change: { after: string }) => change.after)).toEqual(['created as Lea Ost']);
  });

  test('that was exported is taken back without a change', async () => {
    const { text } = await rep(routeTo('exportRecords', { kind: 'lead' }));
    const preview = (await rep(routeTo('previewRecords', { kind: 'lead' }), { text })).json;
    expect(preview.counts).toMatchObject({ create: 0, update: 0, same: 1 });
  });

  test('that changes a value notes it with before and after', async () => {
    await rep(routeTo('importRecords', { kind: 'lead' }), { text: 'name,emails,source\nLea Ost,lea@dredge.example,Web\n' });
    const { changes } = (await rep(routeTo('recordChanges', { kind: 'lead', id: await idOf('lead', 'Lea Ost') }))).json;
    expect(changes[0]).toMatchObject({ field: 'source', before: 'Fair', after: 'Web' });
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
    expect(history.found).toEqual({ conversations: counted.conversations, emails: counted.emails });
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
      { summary: 'Site visit', location: '', startsAt: '2099-05-04T09:00:00.000Z', endsAt: '2099-05-04T10:00:00.000Z', cancelled: false },
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

test('records are handed over, all of one owner or those named; that is noted', async () => {
  for (const name of ['Tidewise', 'Harbour Oriel'])
    await admin(routeTo('handOver', { kind: 'account' }), { ids: [await idOf('account', name)], to: crew.ids.rep });
  const given = await rep(routeTo('handOver', { kind: 'account' }), { from: crew.ids.rep, to: crew.ids.other });
  expect(given.json.ids).toHaveLength(2);
  const names = async (owner: number): Promise<string[]> =>
    (await rep(routeTo('listRecords', { kind: 'account', owner }))).json.records.map((record: { name: string }) => record.name);
  expect([await names(crew.ids.rep), await names(crew.ids.other)]).toEqual([[], ['Harbour Oriel', 'Tidewise']]);
  await rep(routeTo('handOver', { kind: 'account' }), { ids: given.json.ids, to: crew.ids.rep });
  expect(await names(crew.ids.rep)).toEqual(['Harbour Oriel', 'Tidewise']);
  const { changes } = (await rep(routeTo('recordChanges', { kind: 'account', id: await idOf('account', 'Tidewise') }))).json;
  expect(changes[0]).toMatchObject({ field: 'owner', before: 'other@quillmere.example', after: US });
  expect((await rep(routeTo('handOver', { kind: 'account' }), { to: crew.ids.rep })).status).toBe(422);
  expect((await rep(routeTo('handOver', { kind: 'account' }), { ids: [1], to: 999_999 })).status).toBe(404);
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

test('a list is kept under a name, for oneself or for all', async () => {
  const kept = await rep(routeTo('keepView'), { kind: 'deal', name: 'Quiet ones', query: 'quiet=30', shared: true });
  await rep(routeTo('keepView'), { kind: 'deal', name: 'Mine', query: 'owner=1' });
  const names = async (who: keyof Crew['tokens']): Promise<string[]> =>
    (await server.call(routeTo('listViews'), { token: crew.tokens[who] })).json.views.map((view: { name: string }) => view.name);
  expect(await names('rep')).toEqual(['Mine', 'Quiet ones']);
  expect(await names('other')).toEqual(['Quiet ones']);
  expect((await server.call(routeTo('forgetView', { id: kept.json.id }), { token: crew.tokens.other })).status).toBe(404);
  expect((await rep(routeTo('forgetView', { id: kept.json.id }))).status).toBe(200);
});
