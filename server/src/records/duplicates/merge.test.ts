import { routeTo } from '../../testing/routeTo';
import type { Destination } from '../../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { until } from '../../testing/mailboxTools';
import type { Answer, Crew, PlainEmail, TestServer } from '../../testing/testServer';
import { changeRulebook, decideAll, decisions, importMail, mbox, owner, setUpCrew, startTestServer } from '../../testing/testServer';

let server: TestServer;
let crew: Crew;
const rep = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.rep, body });
const admin = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.admin, body });
const US = 'rep@quillmere.example';
const mail = (id: string, from: string, more: Partial<PlainEmail> = {}): PlainEmail => ({ id, from, to: US, subject: id, ...more });

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains,parent,type\nHarbour Oriel,harbour.example,,customer\nHarbour Oriel Ltd,harbour-oriel.example,,\nOriel North,north.example,Harbour Oriel Ltd,\n',
  });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account,title,phone\nIda Brandt,ida@harbour.example,Harbour Oriel,,+44 20 7946 0018\n"Brandt, Ida",ida@freemail.example,Harbour Oriel Ltd,Engineer,020 7946 0018\nJo Lund,jo@harbour.example,Harbour Oriel,,\n',
  });
  await admin(routeTo('importRecords', { kind: 'deal' }), {
    text: 'code,name,account,people\nQH-1,Outer harbour,Harbour Oriel,ida@harbour.example\nQH-2,Inner basin,Harbour Oriel Ltd,ida@freemail.example;ida@harbour.example\n',
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  await importMail(server, crew.tokens.admin, US, {
    'rep.mbox': mbox([
      mail('work', 'Ida Brandt <ida@harbour.example>'),
      mail('private', 'Ida <ida@freemail.example>'),
      mail('office', 'front@harbour-oriel.example'),
      mail('jo', 'Jo Lund <jo@harbour.example>'),
      mail('pinned', 'kim@unknown.example'),
    ]),
  });
}, 60_000);
afterAll(() => server.remove());

async function idOf(kind: string, name: string): Promise<number> {
  const [row] = await owner(server.ownerUrl, `SELECT id FROM ${kind}s WHERE name = $1`, [name]);
  return Number(row?.id);
}
/** Everything that records and filings say, in an order of its own. */
async function world(): Promise<unknown> {
  const tables = [
    'accounts',
    'account_domains',
    'contacts',
    'contact_accounts',
    'person_addresses',
    'deals',
    'deal_people',
    'filings',
    'dockets',
    'activity_records',
  ];
  const found: Record<string, unknown> = {};
  for (const table of tables) {
    const rows = await owner(server.ownerUrl, `SELECT to_jsonb(t) AS row FROM ${table} t ORDER BY to_jsonb(t)::text`);
    found[table] = rows.map((row) => row.row);
  }
  found.pins = (await owner(server.ownerUrl, 'SELECT id, kind, record_id FROM pins ORDER BY id')).map((item) => ({ ...item }));
  return found;
}
const under = async (id: string): Promise<string[]> =>
  (await decisions(server, crew.tokens.rep))[id].filings.map((filing: { name: string }) => filing.name).sort();
const idle = () =>
  until(
    () => owner(server.ownerUrl, `SELECT name, state FROM pgboss.job WHERE name LIKE 'decide%' AND state IN ('created', 'active')`),
    (jobs) => jobs.length === 0,
  );

test('likely duplicates are proposed with the evidence, and not again once refused', async () => {
  const pairs = async (kind: string): Promise<Answer['json'][]> => (await rep(routeTo('listDuplicates', { kind }))).json.pairs;
  const [pair, ...others] = await pairs('contact');
  expect(others).toEqual([]);
  expect([pair.one.name, pair.other.name].sort()).toEqual(['Brandt, Ida', 'Ida Brandt']);
  expect(pair.because.map((item: { text: string }) => item.text)).toEqual(
    expect.arrayContaining(['the same name', 'the same telephone number']),
  );
  expect((await pairs('account')).map((item) => [item.one.name, item.other.name])).toEqual([['Harbour Oriel', 'Harbour Oriel Ltd']]);
  await rep(routeTo('refuseDuplicate', { kind: 'contact' }), { one: pair.other.id, other: pair.one.id });
  expect(await pairs('contact')).toEqual([]);
});

test('a merged contact has the mail, addresses and deals of both; parted again, everything is as it was', async () => {
  const [kept, gone] = [await idOf('contact', 'Ida Brandt'), await idOf('contact', 'Brandt, Ida')];
  const [pinned] = await owner(server.ownerUrl, `SELECT id FROM emails WHERE message_id = 'pinned'`);
  await rep(routeTo('repair'), { emails: [Number(pinned?.id)], file: [{ kind: 'contact', id: gone }] });
  const logged = {
    kind: 'call',
    at: new Date().toISOString(),
    text: 'Called',
    records: [kept, gone].map((id) => ({ kind: 'contact', id })),
  };
  for (const records of [logged.records, logged.records.slice(1)]) await rep(routeTo('logActivity'), { ...logged, records });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    rulebook.match.rules = [
      {
        id: 'to-ida',
        name: '',
        note: '',
        on: true,
        appliesTo: { mailboxes: [], users: [], teams: [] },
        when: { fact: 'participant', which: 'any', test: { is: 'address', value: 'jo@harbour.example' } },
        then: { do: 'fileUnder', kind: 'contact', id: gone, name: 'Ida' },
      },
    ] as never;
  });
  await decideAll(server, crew.tokens.admin);
  const before = await world();
  const [writing] = await owner(
    server.ownerUrl,
    `INSERT INTO outgoing (writer_id, mailbox_id, kind, filing_how, filing_records) SELECT $1, id, 'new', 'records', jsonb_build_array(jsonb_build_object('kind', 'contact', 'id', $2::bigint)) FROM mailboxes LIMIT 1 RETURNING id`,
    [crew.ids.rep, gone],
  );
  const merged = await rep(routeTo('mergeRecords', { kind: 'contact', id: kept }), { gone, take: ['title'] });
  const [written] = await owner(server.ownerUrl, 'DELETE FROM outgoing WHERE id = $1 RETURNING filing_records', [writing?.id]);
  expect(written?.filing_records).toEqual([{ kind: 'contact', id: kept }]);
  expect(merged.json).toMatchObject({ keptName: 'Ida Brandt', goneName: 'Brandt, Ida', undone: false });
  await idle();
  const detail = (await rep(routeTo('getRecord', { kind: 'contact', id: kept }))).json;
  const value = (key: string): string => detail.fields.find((field: { key: string }) => field.key === key).value;
  expect([value('title'), value('emails'), value('account')]).toEqual([
    'Engineer',
    'ida@harbour.example;ida@freemail.example',
    'Harbour Oriel',
  ]);
  expect(detail.related.find((item: { label: string }) => item.label === 'Deals').records).toHaveLength(2);
  expect(detail.emails).toBe(4);
  expect(await under('private')).toEqual(expect.arrayContaining(['Ida Brandt']));
  expect(await under('pinned')).toEqual(['Ida Brandt']);
  expect(await under('jo')).toEqual(expect.arrayContaining(['Ida Brandt', 'Jo Lund']));
  expect((await rep(routeTo('getRecord', { kind: 'contact', id: gone }))).status).toBe(404);
  expect((await rep(routeTo('undoMerge', { id: merged.json.id }))).json.undone).toBe(true);
  await idle();
  expect(await world()).toEqual(before);
  expect((await rep(routeTo('undoMerge', { id: merged.json.id }))).json.error.code).toBe('undone');
});

test('a merged account has the people, deals, domains and subsidiaries of both; parted again, everything is as it was', async () => {
  const [kept, gone] = [await idOf('account', 'Harbour Oriel'), await idOf('account', 'Harbour Oriel Ltd')];
  const before = await world();
  const merged = await rep(routeTo('mergeRecords', { kind: 'account', id: kept }), { gone });
  await idle();
  expect(await under('office')).toEqual(['Harbour Oriel']);
  const related = (await rep(routeTo('getRecord', { kind: 'account', id: kept }))).json.related as { label: string; records: unknown[] }[];
  expect(Object.fromEntries(related.map((item) => [item.label, item.records.length]))).toEqual({ Deals: 2, People: 3, Subsidiaries: 1 });
  await rep(routeTo('undoMerge', { id: merged.json.id }));
  await idle();
  expect(await world()).toEqual(before);
});

test('merges one after another are parted the last first', async () => {
  const [value, two, three] = [
    await idOf('account', 'Harbour Oriel'),
    await idOf('account', 'Harbour Oriel Ltd'),
    await idOf('account', 'Oriel North'),
  ];
  const before = await world();
  const first = await rep(routeTo('mergeRecords', { kind: 'account', id: two }), { gone: three });
  const second = await rep(routeTo('mergeRecords', { kind: 'account', id: value }), { gone: two });
  await idle();
  expect((await rep(routeTo('undoMerge', { id: first.json.id }))).json.error.code).toBe('later');
  await rep(routeTo('undoMerge', { id: second.json.id }));
  await rep(routeTo('undoMerge', { id: first.json.id }));
  await idle();
  expect(await world()).toEqual(before);
  expect((await rep(routeTo('mergeRecords', { kind: 'account', id: value }), { gone: value })).status).toBe(422);
  expect((await rep(routeTo('mergeRecords', { kind: 'account', id: value }), { gone: 999_999 })).status).toBe(404);
});

test('what was merged is not parted while another account has its name', async () => {
  await admin(routeTo('importRecords', { kind: 'account' }), { text: 'name\nBrine Point\nBrine Point Ltd\n' });
  const merged = await rep(routeTo('mergeRecords', { kind: 'account', id: await idOf('account', 'Brine Point') }), {
    gone: await idOf('account', 'Brine Point Ltd'),
  });
  const { id } = (await rep(routeTo('createRecord', { kind: 'account' }), { values: { name: 'brine point ltd' } })).json;
  const refused = await rep(routeTo('undoMerge', { id: merged.json.id }));
  expect([refused.status, refused.json.error]).toMatchObject([
    409,
    { code: 'taken', message: 'Another account is called “brine point ltd” by now. Give that one another name, then part these two.' },
  ]);
  await rep(routeTo('editRecord', { kind: 'account', id }), { values: { name: 'Brine Point Works' } });
  expect((await rep(routeTo('undoMerge', { id: merged.json.id }))).status).toBe(200);
  expect(await idOf('account', 'Brine Point Ltd')).toBeGreaterThan(0);
});

test('the sweep finds who mail goes both ways with and who is in no record, by company', async () => {
  const now = new Date().toUTCString().replace('GMT', '+0000');
  const at = { date: now };
  await importMail(server, crew.tokens.admin, US, {
    'sweep.mbox': mbox([
      mail('s1', 'Mara Tull <mara@marsh-works.example>', { ...at, text: 'Hello\n\n-- \nMara Tull\nDredging Lead\n+44 20 7946 0019\n' }),
      { ...mail('s2', `Rep <${US}>`, at), to: 'mara@marsh-works.example' },
      mail('s3', 'Ned Ash <ned@marsh-works.example>', at),
      mail('s4', 'info@marsh-works.example', at),
      { ...mail('s5', `Rep <${US}>`, at), to: 'info@marsh-works.example' },
      mail('s6', 'Jo Lund <jo@harbour.example>', at),
    ]),
  });
  const { groups, people } = (await rep(routeTo('listUnknownPeople'))).json;
  // Ned never got an email of ours, info@ is no one, and Jo is on record.
  expect(people).toBe(1);
  expect(groups).toEqual([
    expect.objectContaining({
      domain: 'marsh-works.example',
      company: 'Marsh Works',
      people: [
        expect.objectContaining({
          address: 'mara@marsh-works.example',
          title: 'Dredging Lead',
          sent: 1,
          received: 1,
          colleagues: [{ name: 'rep person', emails: 2 }],
        }),
      ],
    }),
  ]);
  expect((await server.call(routeTo('listUnknownPeople', { whose: 'mine' }), { token: crew.tokens.other })).json.people).toBe(0);
});

test('whose a domain is says all accounts that share it, and those of the closest domain alone', async () => {
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains\nShared East,shared.example\nShared West,shared.example\nShared Pier,pier.shared.example\n',
  });
  const at = { date: new Date().toUTCString().replace('GMT', '+0000') };
  await importMail(server, crew.tokens.admin, US, {
    'shared.mbox': mbox([
      mail('shared-1', 'Ada Moss <ada@shared.example>', at),
      { ...mail('shared-2', `Rep <${US}>`, at), to: 'ada@shared.example' },
      mail('shared-3', 'Bea Moss <bea@old.pier.shared.example>', at),
      { ...mail('shared-4', `Rep <${US}>`, at), to: 'bea@old.pier.shared.example' },
    ]),
  });
  const names = (list: readonly { name: string }[]): string[] => list.map(({ name }) => name);
  const [group] = (await rep(routeTo('listUnknownPeople'))).json.groups.filter(
    (item: { domain: string }) => item.domain === 'shared.example',
  );
  expect(names(group.accounts).sort()).toEqual(['Shared East', 'Shared Pier', 'Shared West']);
  const [email] = await owner(server.ownerUrl, `SELECT id::int FROM emails WHERE message_id = 'shared-1'`);
  const [pier] = await owner(server.ownerUrl, `SELECT id::int FROM emails WHERE message_id = 'shared-3'`);
  const { people } = (await rep(routeTo('outsiders', { emails: `${String(email?.id)},${String(pier?.id)}` }))).json;
  expect(people.map((person: { address: string; accounts: { name: string }[] }) => [person.address, names(person.accounts)])).toEqual([
    ['ada@shared.example', ['Shared East', 'Shared West']],
    ['bea@old.pier.shared.example', ['Shared Pier']],
  ]);
  const { rows } = (await admin(routeTo('listDomainUse', { show: 'all', text: 'shared.example' }))).json;
  expect(Object.fromEntries(rows.map((row: { domain: string; accounts: string[] }) => [row.domain, row.accounts]))).toEqual({
    'shared.example': ['Shared East', 'Shared West'],
    'old.pier.shared.example': ['Shared Pier'],
  });
});
