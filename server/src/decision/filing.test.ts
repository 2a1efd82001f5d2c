import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, decisions, finished, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
const rep = 'rep@quillmere.example';
const email = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({ id, from: 'ida@harbour.example', to: rep, ...more });
const names = (item: { filings: { kind: string; name: string }[] }): string[] =>
  item.filings.map((filing) => `${filing.kind} ${filing.name}`);

async function records(kind: string, text: string): Promise<void> {
  const done = await server.call(routeTo('importRecords', { kind }), { token: crew.tokens.admin, body: { text } });
  expect(done.json.bad).toEqual([]);
}

/** Waits until the mail that an import of records concerns has been decided again. */
async function settled(id: string, expected: string[]): Promise<void> {
  for (let tries = 0; tries < 200; tries += 1) {
    if (JSON.stringify(names((await decisions(server, crew.tokens.admin))[id])) === JSON.stringify(expected)) return;
    await decideAll(server, crew.tokens.admin);
  }
  expect(names((await decisions(server, crew.tokens.admin))[id])).toEqual(expected);
}

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await records(
    'account',
    'name,domains,type,owner\nHarbour Oriel,harbour.example;oriel.example,customer,rep@quillmere.example\nNorth,group.example,,\nSouth,group.example,,\n',
  );
  await records(
    'contact',
    'name,emails,account,owner\nIda Brandt,ida@harbour.example,Harbour Oriel,rep@quillmere.example\nJo Lund,jo@harbour.example,Harbour Oriel,\n',
  );
  await records(
    'deal',
    'code,name,account,owner,stage,open,amount,currency,people,closed_on\nQH-1,Gauges,Harbour Oriel,rep@quillmere.example,Quoted,yes,12000,EUR,ida@harbour.example,\nQH-2,Old gauges,Harbour Oriel,,Won,no,9000,EUR,ida@harbour.example,2026-03-31\nQH-33,Buoys,Harbour Oriel,,Quoted,yes,100,EUR,jo@harbour.example,\nQH-44,Weir,Harbour Oriel,,Quoted,yes,100,EUR,jo@harbour.example,\n',
  );
  await importMail(server, crew.tokens.admin, rep, {
    'rep.mbox': mbox([
      email('known'),
      email('before', { date: 'Mon, 2 Mar 2026 10:00:00 +0000', subject: 'Earlier' }),
      email('stranger', { from: 'who@lab.oriel.example', subject: 'S' }),
      email('shared', { from: 'who@group.example', subject: 'T' }),
      email('two', { from: 'jo@harbour.example', subject: 'Two' }),
      email('coded', { from: 'jo@harbour.example', subject: 'About QH-33' }),
      email('coded-text', { from: 'jo@harbour.example', subject: 'As agreed', text: 'The papers for qh-44 are here.\n\n> and QH-33?\n' }),
      email('coded-answer', {
        from: rep,
        to: 'jo@harbour.example',
        subject: 'Re: without',
        references: '<coded>',
        date: 'Tue, 5 May 2026 10:00:00 +0000',
      }),
      email('new', { from: 'new.person@salt-marsh.example', subject: 'New' }),
      email('new-sent', {
        from: rep,
        to: 'New Person <new.person@salt-marsh.example>',
        subject: 'New for you',
        date: 'Wed, 6 May 2026 10:00:00 +0000',
      }),
      email('internal', { from: rep, to: 'manager@quillmere.example', subject: 'Among us' }),
      email('letter', { from: 'news@letter.example', headers: 'List-Unsubscribe: <mailto:x@letter.example>', subject: 'News' }),
    ]),
  });
});
afterAll(() => server.remove());

describe('filing', () => {
  test('is right for each kind of email', async () => {
    const all = await decisions(server, crew.tokens.admin);
    expect(names(all.known)).toEqual(['account Harbour Oriel', 'deal Gauges', 'contact Ida Brandt']);
    expect(all.known).toMatchObject({ outcome: 'filed', direction: 'received', visibility: 'owner', mailClass: 'person' });
    expect(names(all.stranger)).toEqual(['account Harbour Oriel']);
    expect([all.shared.outcome, names(all.shared)]).toEqual(['waiting', []]);
    expect([all.two.outcome, names(all.two)]).toEqual(['waiting', ['account Harbour Oriel', 'contact Jo Lund']]);
    expect(names(all.coded)).toContain('deal Buoys');
    expect(names(all['coded-answer'])).toContain('deal Buoys');
    expect(names(all['coded-text'])).toContain('deal Weir');
    // Both deals of these people were open on 2 March: a question, not a guess.
    expect([all.before.outcome, names(all.before)]).toEqual(['waiting', ['account Harbour Oriel', 'contact Ida Brandt']]);
    expect([all.internal.outcome, all.letter.outcome, all.new.outcome]).toEqual(['kept out', 'kept out', 'unfiled']);
  });

  test('a kept-out email leaves no subject, names or text behind', async () => {
    const kept = await owner(server.ownerUrl, `SELECT e.id, e.steps::text AS steps FROM emails e WHERE outcome = 'kept out'`);
    expect(kept).toHaveLength(2);
    for (const row of kept)
      for (const table of ['email_contents', 'participants', 'attachments'])
        expect(await owner(server.ownerUrl, `SELECT FROM ${table} WHERE email_id = $1`, [row.id])).toEqual([]);
    expect(kept.map((row) => String(row.steps)).join()).not.toMatch(/news@/);
  });

  test('what is created carries its origin, and earlier mail of the same person is filed too', async () => {
    await changeRulebook(server, crew.tokens.admin, (rulebook) => {
      Object.assign(rulebook.create, { people: 'contact', after: 'weWrote', accounts: true });
      rulebook.share.level = 'everyone';
    });
    expect((await decideAll(server, crew.tokens.admin)).state).toBe('done');
    const all = await decisions(server, crew.tokens.admin);
    expect(all['new-sent'].created.map((item: { name: string }) => item.name)).toEqual(['Salt Marsh', 'New Person']);
    expect(names(all.new)).toEqual(['account Salt Marsh', 'contact New Person']);
    const contact = all['new-sent'].created.find((item: { kind: string }) => item.kind === 'contact');
    const { json } = await server.call(routeTo('getRecord', { kind: 'contact', id: contact.id }), { token: crew.tokens.viewer });
    expect(json.origin.rule).toBe('create.people');
    expect(all.known.visibility).toBe('everyone');
  });

  test('a history shows the whole conversation once, to everyone who may', async () => {
    const account = (await server.call(routeTo('listRecords', { kind: 'account', text: 'Harbour' }), { token: crew.tokens.viewer })).json
      .records[0];
    const { conversations } = (await server.call(routeTo('getHistory', { kind: 'account', id: account.id }), { token: crew.tokens.viewer }))
      .json;
    const coded = conversations.find((conversation: { emailCount: number }) => conversation.emailCount === 2);
    expect(coded.emails.map((item: { direction: string }) => item.direction)).toEqual(['received', 'sent']);
    expect(account.emails).toBe(
      conversations.reduce((sum: number, conversation: { emailCount: number }) => sum + conversation.emailCount, 0),
    );
  });
});

describe('keeping out', () => {
  const state = async (): Promise<string> => JSON.stringify(await decisions(server, crew.tokens.admin));

  test('shows its effect first, changes nothing by that, takes effect, and is undone as one step', async () => {
    const before = await state();
    const preview = await server.call(routeTo('previewKeepOut'), {
      token: crew.tokens.admin,
      body: { kind: 'domain', value: 'Harbour.example' },
    });
    expect(preview.json).toMatchObject({ value: 'harbour.example', concerned: 6, wouldLeave: 6, filedNow: 6, already: null });
    expect(await state()).toBe(before);

    const done = await server.call(routeTo('keepOut'), {
      token: crew.tokens.admin,
      body: { kind: 'domain', value: 'harbour.example', note: 'test' },
    });
    expect(done.json.changed).toBe(6);
    expect((await decisions(server, crew.tokens.admin)).known).toMatchObject({ outcome: 'kept out', filings: [] });
    expect((await server.call(routeTo('search', { text: 'Two' }), { token: crew.tokens.rep })).json.emailTotal).toBe(0);

    const undone = await server.call(routeTo('undo', { id: done.json.undo }), { token: crew.tokens.admin });
    expect(undone.json.changed).toBe(6);
    expect(await state()).toBe(before);
    expect((await server.call(routeTo('search', { text: 'Two' }), { token: crew.tokens.rep })).json.emailTotal).toBe(1);
    expect((await server.call(routeTo('undo', { id: done.json.undo }), { token: crew.tokens.admin })).json.error.code).toBe(
      'undone-already',
    );
  });

  test('one address only, and the same twice is refused', async () => {
    const done = await server.call(routeTo('keepOut'), {
      token: crew.tokens.admin,
      body: { kind: 'address', value: 'jo@harbour.example' },
    });
    const all = await decisions(server, crew.tokens.admin);
    expect([all.two.outcome, all.known.outcome]).toEqual(['kept out', 'filed']);
    expect(
      (await server.call(routeTo('keepOut'), { token: crew.tokens.admin, body: { kind: 'address', value: 'JO@harbour.example' } })).json
        .error.code,
    ).toBe('exists');
    await server.call(routeTo('undo', { id: done.json.undo }), { token: crew.tokens.admin });
    expect((await decisions(server, crew.tokens.admin)).two.outcome).toBe('waiting');
  });

  test('counts rightly when two entries meet in one email', async () => {
    const both = email('both', { from: 'law@first-law.example', cc: 'law@second-law.example', subject: 'Both' });
    await importMail(server, crew.tokens.admin, rep, { 'both.mbox': mbox([both]) });
    const preview = async (value: string) =>
      (await server.call(routeTo('previewKeepOut'), { token: crew.tokens.admin, body: { kind: 'domain', value } })).json;
    expect(await preview('first-law.example')).toMatchObject({ concerned: 1, wouldLeave: 0 });
    const done = await server.call(routeTo('keepOut'), {
      token: crew.tokens.admin,
      body: { kind: 'domain', value: 'second-law.example' },
    });
    expect(await preview('first-law.example')).toMatchObject({ concerned: 1, wouldLeave: 1 });
    await server.call(routeTo('undo', { id: done.json.undo }), { token: crew.tokens.admin });
  });

  test('warns of a provider and of ourselves', async () => {
    const warned = async (value: string): Promise<string> =>
      (await server.call(routeTo('previewKeepOut'), { token: crew.tokens.admin, body: { kind: 'domain', value } })).json.warning;
    expect(await warned('gmail.com')).toContain('public mail provider');
    expect(await warned('quillmere.example')).toContain('one of ours');
  });
});

describe('the rulebook', () => {
  test('a bad one is refused with the place, and the one in force stays', async () => {
    const before = (await server.call(routeTo('getRulebook'), { token: crew.tokens.admin })).json;
    const bad = await server.call(routeTo('putRulebook'), {
      token: crew.tokens.admin,
      body: { ...before.document, takeIn: { scope: 'everything' } },
    });
    expect([bad.status, bad.json.error.code, Object.keys(bad.json.error.fields)]).toEqual([422, 'bad-rulebook', ['takeIn.scope']]);
    expect((await server.call(routeTo('getRulebook'), { token: crew.tokens.admin })).json.version).toBe(before.version);
  });

  test('saving over another’s change is refused', async () => {
    const { json } = await server.call(routeTo('getRulebook'), { token: crew.tokens.admin });
    expect(
      (await server.call(routeTo('putRulebook', { over: json.version }), { token: crew.tokens.admin, body: json.document })).status,
    ).toBe(200);
    expect(
      (await server.call(routeTo('putRulebook', { over: json.version }), { token: crew.tokens.admin, body: json.document })).json.error
        .code,
    ).toBe('changed-meanwhile');
  });
});

test('records that come after the mail draw it to them', async () => {
  await records('contact', 'name,emails\nStranger Known,who@group.example\n');
  await settled('shared', ['contact Stranger Known']);
});

test('a contact who changes employer leaves the mail of that time with the former account', async () => {
  await records('account', 'name,domains\nElsewhere,elsewhere.example\n');
  await records('contact', 'name,emails,account\nIda Brandt,ida@harbour.example;ida@elsewhere.example,Elsewhere\n');
  await importMail(server, crew.tokens.admin, rep, {
    'later.mbox': mbox([email('at-new', { from: 'ida@elsewhere.example', subject: 'From my new place' })]),
  });
  await decideAll(server, crew.tokens.admin);
  const all = await decisions(server, crew.tokens.admin);
  expect(names(all.known)).toContain('account Harbour Oriel');
  expect(names(all.known)).not.toContain('account Elsewhere');
  expect(names(all['at-new'])).toEqual(['account Elsewhere', 'deal Gauges', 'contact Ida Brandt']);
});

test('a run can be cancelled', async () => {
  const started = await server.call(routeTo('decide'), { token: crew.tokens.admin });
  await server.call(routeTo('cancelDecideRun', { id: started.json.id }), { token: crew.tokens.admin });
  expect(['done', 'cancelled']).toContain(
    (await finished(server, crew.tokens.admin, routeTo('getDecideRun', { id: started.json.id }))).state,
  );
});
