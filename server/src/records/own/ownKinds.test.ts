import { describe, expect, test } from '@jest/globals';
import { CASES } from '@fulvet/contract';
import type { OwnKind } from '@fulvet/contract';
import { routeTo } from '../../testing/routeTo';
import { admin, as, crew, day, idOf, mail, rep, server, US } from '../../testing/repairStage';
import { changeRulebook, importMail, importRecords, mbox, nothingLeftToDecide, owner } from '../../testing/testServer';

let cases: OwnKind;

const kindsNow = async (): Promise<OwnKind[]> => (await rep(routeTo('getRecordSetup'))).json.kinds;
const content = ({ id: _id, key: _key, ...rest }: OwnKind) => rest;
const startCase = async (values: Record<string, string>, who: 'rep' | 'admin' | 'other' | 'manager' = 'rep'): Promise<number> => {
  const made = await as(who)(routeTo('createRecord', { kind: 'own' }), { values: { kind: 'case', ...values } });
  if (made.status !== 200) throw new Error(made.text);
  return made.json.id;
};
const detail = async (id: number, who: 'rep' | 'admin' | 'other' = 'rep') =>
  (await as(who)(routeTo('getRecord', { kind: 'own', id }))).json;
const field = async (id: number, key: string): Promise<string> =>
  (await detail(id)).fields.find((item: { key: string }) => item.key === key)?.value;
const casesOf = async (messageId: string): Promise<string[]> => {
  const rows = await owner(
    server.ownerUrl,
    `SELECT o.code || ' ' || o.name AS name FROM filings f JOIN emails e ON e.id = f.email_id JOIN own_records o ON f.kind = 'own' AND o.id = f.record_id WHERE e.message_id = $1 ORDER BY o.id`,
    [messageId],
  );
  return rows.map(({ name }) => String(name));
};
const bring = (mails: Parameters<typeof mbox>[0], to = US) => importMail(server, crew.tokens.admin, to, { 'more.mbox': mbox(mails) });

describe('a kind of records', () => {
  test('is defined by an administrator, and by no one else', async () => {
    expect((await rep(routeTo('createOwnKind'), CASES)).status).toBe(403);
    const made = await admin(routeTo('createOwnKind'), CASES);
    expect(made.json.kinds).toMatchObject([{ key: 'case', singular: 'Case', prefix: 'CASE' }]);
    [cases] = made.json.kinds;
    expect((await admin(routeTo('createOwnKind'), CASES)).json.error.code).toBe('taken');
  });

  test.each([
    ['a name that is a kind already', { singular: 'Deal', plural: 'Deals', prefix: 'DL' }, 409],
    ['a prefix that another has', { singular: 'Project', plural: 'Projects', prefix: 'case' }, 409],
    ['a prefix that is no word', { singular: 'Project', plural: 'Projects', prefix: 'P-1' }, 422],
    ['no open state', { singular: 'Project', plural: 'Projects', prefix: 'PROJ', states: [{ name: 'Done', open: false }] }, 422],
    ['a state twice', { singular: 'P', plural: 'Ps', prefix: 'PROJ', states: ['A', 'a'].map((name) => ({ name, open: true })) }, 422],
    ['no name', { singular: ' ', plural: 'Projects', prefix: 'PROJ' }, 422],
  ])('is refused with %s', async (_, change, status) => {
    expect((await admin(routeTo('createOwnKind'), { ...CASES, ...change })).status).toBe(status);
    expect(await kindsNow()).toHaveLength(1);
  });

  test('numbers its records without gaps that tell, however many begin at once', async () => {
    const ids = await Promise.all(Array.from({ length: 12 }, (_, at) => startCase({ name: `At once ${at}` })));
    const codes = await Promise.all(ids.map((id) => field(id, 'code')));
    expect(new Set(codes).size).toBe(12);
    expect(codes.map((code) => Number(code.slice(5))).sort((first, second) => first - second)).toEqual(
      Array.from({ length: 12 }, (_, at) => at + 1),
    );
  });
});

describe('a record of an own kind', () => {
  test('begins in the first state, with whoever starts it as its owner', async () => {
    const id = await startCase({ name: 'Cracked housing', account: 'Harbour Oriel', people: 'ida@harbour.example' });
    expect(await detail(id)).toMatchObject({ of: 'case', people: [{ name: 'Ida Brandt' }] });
    expect([await field(id, 'state'), await field(id, 'owner'), await field(id, 'closed_on')]).toEqual(['New', US, '']);
    const closed = await rep(routeTo('editRecord', { kind: 'own', id }), { values: { state: 'solved' } });
    expect(closed.json.fields).toEqual(expect.arrayContaining([expect.objectContaining({ key: 'state', value: 'Solved' })]));
    expect(await field(id, 'closed_on')).toMatch(/^\d{4}-\d{2}-\d{2}$/);
    await rep(routeTo('undo', { id: closed.json.undo }));
    expect([await field(id, 'state'), await field(id, 'closed_on')]).toEqual(['New', '']);
  });

  test.each([
    [{ state: 'Nowhere' }, 'state'],
    [{ code: 'QH-1' }, 'code'],
    [{ kind: 'project' }, 'kind'],
    [{ emails: 'x@y.example' }, 'emails'],
    [{ closed_on: '2020-01-01', state: 'Solved' }, 'closed_on'],
    [{ nonsense: 'x' }, 'nonsense'],
  ])('cannot say %p', async (values, wrong) => {
    const answer = await rep(routeTo('createRecord', { kind: 'own' }), { values: { kind: 'case', name: 'Wrong', ...values } });
    expect([answer.status, Object.keys(answer.json.error.details ?? answer.json.error.fields ?? {})]).toEqual([422, [wrong]]);
  });

  test('has fields of its kind', async () => {
    const set = (fields: object[]) => admin(routeTo('setOwnFields', { kind: 'own' }), { of: 'case', fields });
    expect((await admin(routeTo('setOwnFields', { kind: 'own' }), { of: 'nothing', fields: [] })).status).toBe(404);
    const fields = (await set([{ label: 'Urgency', type: 'choice', choices: ['Low', 'High'] }])).json.ownFields.own;
    expect(fields).toMatchObject([{ key: 'urgency', of: 'case' }]);
    const id = await startCase({ name: 'With a field', urgency: 'high' });
    expect(await field(id, 'urgency')).toBe('High');
    const found = await rep(routeTo('listRecords', { kind: 'own', of: 'case', own: 'urgency:High' }));
    expect(found.json.records.map(({ name }: { name: string }) => name)).toEqual(['With a field']);
  });

  test('goes out as CSV and comes in again; numbers stay, and later ones are higher', async () => {
    const { text } = await rep(routeTo('exportRecords', { kind: 'own', of: 'case' }));
    expect(text.split('\n')[0]).toBe('kind,code,name,account,owner,state,people,emails,opened_on,closed_on,urgency');
    const again = await importRecords(server, crew.tokens.rep, 'own', text);
    expect(again.json.counts).toMatchObject({ create: 0, update: 0, bad: 0 });
    const more = await importRecords(
      server,
      crew.tokens.rep,
      'own',
      'kind,code,name,state\nCase,CASE-70,Brought along,Solved\ncases,,Numbered here,\nship,,No such kind,\ncase,CASE-x,Bad,\n',
    );
    expect(more.json.counts).toMatchObject({ create: 2, bad: 2 });
    const listed = await rep(routeTo('listRecords', { kind: 'own', of: 'case', text: 'a', sort: 'code' }));
    const codes = listed.json.records.map(({ code, name }: { code: string; name: string }) => [code, name]);
    expect(codes).toEqual(
      expect.arrayContaining([
        ['CASE-70', 'Brought along'],
        ['CASE-71', 'Numbered here'],
      ]),
    );
  });
});

describe('mail', () => {
  test('a case that is started from an email leads its answers there, also those in another mailbox', async () => {
    const id = await idOf('alone');
    const started = await rep(routeTo('repair'), {
      emails: [id],
      reach: 'conversation',
      own: { kind: 'case', name: 'The gauge leaks', accountId: null, people: ['ida@harbour.example'], values: {} },
    });
    const [made] = started.json.created;
    expect(made).toMatchObject({ kind: 'own', name: 'The gauge leaks' });
    const code = await field(made.id, 'code');
    await bring([mail('answer', { from: US, to: 'ida@harbour.example', references: '<alone>', subject: 'Re: alone', date: day(9) })]);
    await bring(
      [
        mail('by-number', {
          from: 'Someone <someone@elsewhere.example>',
          to: 'other@quillmere.example',
          subject: `About ${code}`,
          date: day(10),
        }),
        mail('by-another', { to: 'other@quillmere.example', references: '<answer>', subject: 'AW: alone', date: day(11) }),
        mail('no-one', { to: 'other@quillmere.example', subject: 'Another matter', date: day(12) }),
      ],
      'other@quillmere.example',
    );
    await nothingLeftToDecide(server);
    expect(await casesOf('alone')).toEqual([`${code} The gauge leaks`]);
    expect(await casesOf('answer')).toEqual([`${code} The gauge leaks`]);
    expect(await casesOf('by-number')).toEqual([`${code} The gauge leaks`]);
    expect(await casesOf('by-another')).toEqual([`${code} The gauge leaks`]);
    expect(await casesOf('no-one')).toEqual([]);
    const history = await rep(routeTo('getHistory', { kind: 'own', id: made.id }));
    expect(history.json.conversations).toHaveLength(2);
    expect((await detail(made.id)).origin.emailId).toBe(id);
    // The whole step is taken back, and the case with it.
    const undone = await rep(routeTo('undoRepair', { id: started.json.id }));
    expect(undone.status).toBe(200);
    await nothingLeftToDecide(server);
    expect(await casesOf('alone')).toEqual([]);
    expect(await casesOf('by-number')).toEqual([]);
  });

  test('past mail follows a record that is made, changed and removed', async () => {
    const made = await rep(routeTo('createRecord', { kind: 'own' }), {
      values: { kind: 'case', name: 'By its people', people: 'ida@harbour.example' },
    });
    await nothingLeftToDecide(server);
    expect(await casesOf('first')).toEqual([]);
    await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.match.own = { case: 'onlyOpen' }));
    await rep(routeTo('editRecord', { kind: 'own', id: made.json.id }), { values: { opened_on: '2026-05-01' } });
    for (const { id } of (await rep(routeTo('listRecords', { kind: 'own', of: 'case', open: 'yes', limit: 500 }))).json.records)
      if (id !== made.json.id) await admin(routeTo('editRecord', { kind: 'own', id }), { values: { state: 'Solved' } });
    await nothingLeftToDecide(server);
    expect(await casesOf('first')).toEqual([expect.stringContaining('By its people')]);
    await rep(routeTo('editRecord', { kind: 'own', id: made.json.id }), { values: { people: '' } });
    await nothingLeftToDecide(server);
    expect(await casesOf('first')).toEqual([]);
    await rep(routeTo('undo', { id: made.json.undo }));
    await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.match.own = {}));
  });
});

describe('who sees it', () => {
  test('records of a kind that is one team’s are seen by its members, their owners and administrators alone', async () => {
    const teamId = (await admin(routeTo('addTeam'), { name: 'Support', members: [crew.ids.other] })).json.id;
    const id = await startCase({ name: 'For support only', people: 'ida@harbour.example' }, 'other');
    await as('other')(routeTo('repair'), { emails: [await idOf('first')], reach: 'email', file: [{ kind: 'own', id }] });
    await nothingLeftToDecide(server);
    expect(await casesOf('first')).toEqual([expect.stringContaining('For support only')]);
    const edited = await admin(routeTo('editOwnKind', { id: cases.id }), { ...content(cases), seenByTeams: [teamId] });
    expect(edited.status).toBe(200);
    const seen = async (who: 'rep' | 'other' | 'admin' | 'manager') => {
      const call = as(who);
      return {
        listed: (await call(routeTo('listRecords', { kind: 'own', of: 'case', text: 'support only' }))).json.total,
        page: (await call(routeTo('getRecord', { kind: 'own', id }))).status,
        changes: (await call(routeTo('recordChanges', { kind: 'own', id }))).json.changes?.length > 0,
        searched: JSON.stringify((await call(routeTo('search', { text: 'support only' }))).json.records).includes('For support'),
        exported: (await call(routeTo('exportRecords', { kind: 'own' }))).text.includes('For support only'),
        onEmail: JSON.stringify((await call(routeTo('getEmail', { id: await idOf('first') }))).json).includes('For support only'),
        related: JSON.stringify((await call(routeTo('getRecord', { kind: 'contact', id: 1 }))).json).includes('For support only'),
      };
    };
    const all = { listed: 1, page: 200, changes: true, searched: true, exported: true, onEmail: true, related: true };
    expect(await seen('other')).toEqual(all);
    expect(await seen('admin')).toEqual(all);
    const nothing = { listed: 0, page: 404, changes: false, searched: false, exported: false, onEmail: false, related: false };
    expect(await seen('rep')).toEqual(nothing);
    expect(await seen('manager')).toEqual(nothing);
    expect((await rep(routeTo('editRecord', { kind: 'own', id }), { values: { name: 'Mine now' } })).status).toBe(404);
    expect((await rep(routeTo('repair'), { emails: [await idOf('first')], file: [{ kind: 'own', id }] })).status).toBe(404);
    // The team stays as long as a kind is theirs: without it everyone would see its records.
    expect((await admin(routeTo('removeTeam', { id: teamId }))).json.error.code).toBe('in-use');
    // A rep may still start one of the kind, and sees their own.
    const own = await startCase({ name: 'A rep’s own' });
    expect((await rep(routeTo('getRecord', { kind: 'own', id: own }))).status).toBe(200);
    await admin(routeTo('editOwnKind', { id: cases.id }), content(cases));
    expect((await seen('rep')).page).toBe(200);
  });
});

describe('what happens to other records', () => {
  test('merged contacts and accounts stay linked, and are parted again', async () => {
    await importRecords(server, crew.tokens.admin, 'account', 'name,domains\nPier Two,pier2.example\nPier Three,pier3.example\n');
    await importRecords(server, crew.tokens.admin, 'contact', 'name,emails\nAda Pier,ada@pier2.example\nAda P,ada@pier3.example\n');
    const id = await startCase({ name: 'Pier works', account: 'Pier Three', people: 'ada@pier3.example' });
    const idOfNamed = async (table: string, name: string) =>
      Number((await owner(server.ownerUrl, `SELECT id FROM ${table} WHERE name = $1`, [name]))[0]?.id);
    const contacts = await admin(routeTo('mergeRecords', { kind: 'contact', id: await idOfNamed('contacts', 'Ada Pier') }), {
      gone: await idOfNamed('contacts', 'Ada P'),
      take: [],
    });
    const accounts = await admin(routeTo('mergeRecords', { kind: 'account', id: await idOfNamed('accounts', 'Pier Two') }), {
      gone: await idOfNamed('accounts', 'Pier Three'),
      take: [],
    });
    expect([contacts.status, accounts.status]).toEqual([200, 200]);
    expect([(await detail(id)).people[0].name, await field(id, 'account')]).toEqual(['Ada Pier', 'Pier Two']);
    for (const { json } of [accounts, contacts]) expect((await admin(routeTo('undoMerge', { id: json.id }))).status).toBe(200);
    expect([(await detail(id)).people[0].name, await field(id, 'account')]).toEqual(['Ada P', 'Pier Three']);
  });

  test('a person who is erased leaves it', async () => {
    const id = await startCase({ name: 'Pier works again', people: 'ada@pier2.example' });
    const erased = await admin(routeTo('erasePerson'), {
      addresses: ['ada@pier2.example'],
      way: 'erase',
      confirm: 'ada@pier2.example',
      reference: '',
    });
    expect([erased.status, (await detail(id)).people]).toEqual([200, []]);
  });

  test('records are handed over one by one, and with all that a member owns', async () => {
    const id = await startCase({ name: 'To be handed over' });
    const handed = await as('manager')(routeTo('handOver', { kind: 'own' }), { ids: [id], to: crew.ids.other });
    expect([handed.status, await field(id, 'owner')]).toEqual([200, 'other@quillmere.example']);
    expect((await rep(routeTo('editRecord', { kind: 'own', id }), { values: { owner: US } })).status).toBe(403);
  });
});

describe('changing a kind', () => {
  test('records follow a state that is renamed; one in which records are cannot go', async () => {
    const id = await startCase({ name: 'Follows its state' });
    const { states } = cases;
    const without = await admin(routeTo('editOwnKind', { id: cases.id }), { ...content(cases), states: states.slice(1) });
    expect([without.status, without.json.error.code]).toEqual([409, 'in-use']);
    const renamed = states.map((state, at) => (at === 0 ? { name: 'Fresh', open: true, was: 'New' } : state));
    expect((await admin(routeTo('editOwnKind', { id: cases.id }), { ...content(cases), states: renamed })).status).toBe(200);
    expect(await field(id, 'state')).toBe('Fresh');
    expect((await admin(routeTo('editOwnKind', { id: cases.id }), { ...content(cases), prefix: 'TKT' })).status).toBe(409);
  });

  test('one with records stays, one without goes', async () => {
    expect((await admin(routeTo('removeOwnKind', { id: cases.id }))).json.error.code).toBe('in-use');
    const made = await admin(routeTo('createOwnKind'), { ...CASES, singular: 'Project', plural: 'Projects', prefix: 'PROJ' });
    const project = made.json.kinds.find(({ key }: OwnKind) => key === 'project');
    expect((await admin(routeTo('removeOwnKind', { id: project.id }))).json.kinds).toHaveLength(1);
  });
});
