import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Change } from '../base/live/changes';
import { until } from '../testing/mailboxTools';
import type { Answer, Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

type Who = keyof Crew['tokens'];
let server: TestServer;
let crew: Crew;
const as = (who: Who) => (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens[who], body });
const rep = (target: Destination, body?: unknown) => as('rep')(target, body);
const admin = (target: Destination, body?: unknown) => as('admin')(target, body);

const ida = 'Ida Brandt <ida@harbour.example>';
const US = 'rep@quillmere.example';
const mail = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({ id, from: ida, to: US, subject: id, ...more });
const day = (n: number): string => `${String(n).padStart(2, '0')} May 2026 10:00:00 +0000`;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains\nHarbour Oriel,harbour.example\nTidewise,tidewise.example\nReef North,reef.example\nReef South,reef.example\n',
  });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n',
  });
  await admin(routeTo('importRecords', { kind: 'deal' }), {
    text: 'code,name,account,people,open\nQH-1001,Outer harbour,Harbour Oriel,ida@harbour.example,yes\nQH-1002,Inner basin,Harbour Oriel,ida@harbour.example,yes\n',
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  await importMail(server, crew.tokens.admin, US, {
    'rep.mbox': mbox([
      mail('first', { date: day(1) }),
      mail('second', { date: day(2), references: '<first>' }),
      mail('third', { date: day(3), references: '<first>' }),
      mail('alone', { date: day(4) }),
      mail('other-1', { date: day(5), from: 'Kim Aster <kim@unknown.example>' }),
      mail('other-2', {
        date: day(6),
        from: 'Kim Aster <kim@unknown.example>',
        text: 'Hello\n\n-- \nKim Aster\nHarbour Pilot\n+44 20 7946 0018\n',
      }),
      mail('other-3', { date: day(7), from: 'Kim Aster <kim@unknown.example>' }),
      mail('reef', { date: day(8), from: 'Ola <ola@reef.example>' }),
    ]),
  });
}, 60_000);
afterAll(() => server.remove());

async function emailOf(messageId: string): Promise<Answer['json']> {
  const [row] = await owner(server.ownerUrl, 'SELECT id FROM emails WHERE message_id = $1', [messageId]);
  return { id: Number(row?.id), ...(await rep(routeTo('getEmail', { id: row?.id }))).json };
}
const idOf = async (messageId: string): Promise<number> => (await emailOf(messageId)).id;
const under = async (messageId: string): Promise<string[]> =>
  (await emailOf(messageId)).filings.map((filing: { name: string }) => filing.name).sort();
async function recordId(kind: string, name: string): Promise<number> {
  const [row] = await owner(server.ownerUrl, `SELECT id FROM ${kind}s WHERE name = $1`, [name]);
  return Number(row?.id);
}

/** All that decisions say, but for when they were made. */
const standing = () =>
  owner(
    server.ownerUrl,
    `SELECT e.message_id, e.outcome, e.visibility, e.steps, k.docket, k.questions, (SELECT jsonb_agg(to_jsonb(f) ORDER BY f.kind, f.record_id) FROM filings f WHERE f.email_id = e.id) AS filings
     FROM emails e LEFT JOIN dockets k ON k.email_id = e.id ORDER BY e.id`,
  );

/** What stands when nothing waits for being decided: emails whose deal goes by score follow a repair by a job. */
async function settled(): ReturnType<typeof standing> {
  await until(
    () => owner(server.ownerUrl, 'SELECT count(*)::int AS open FROM emails WHERE decided_at IS NULL'),
    ([row]) => row?.open === 0,
  );
  return standing();
}

describe('a repair', () => {
  test('files a conversation under a deal; it survives that everything is decided again, and later emails follow', async () => {
    const deal = await recordId('deal', 'Outer harbour');
    expect((await emailOf('second')).outcome).toBe('waiting');
    const done = await rep(routeTo('repair'), {
      emails: [await idOf('second')],
      reach: 'conversation',
      file: [{ kind: 'deal', id: deal }],
    });
    expect(done.json).toMatchObject({ summary: 'Filed a conversation under the deal Outer harbour', changed: 3, offer: null });
    for (const value of ['first', 'second', 'third']) expect(await under(value)).toEqual(['Harbour Oriel', 'Ida Brandt', 'Outer harbour']);
    expect((await emailOf('third')).outcome).toBe('filed');
    await decideAll(server, crew.tokens.admin);
    expect(await under('second')).toContain('Outer harbour');
    await importMail(server, crew.tokens.admin, US, { 'later.mbox': mbox([mail('fourth', { date: day(20), references: '<third>' })]) });
    expect(await under('fourth')).toContain('Outer harbour');
    const docket = (await emailOf('second')).docket.flatMap((entry: { because: string[] }) => entry.because);
    expect(docket.some((entry: string) => entry.startsWith('rep person filed the conversation under the deal Outer harbour'))).toBe(true);
  });

  test('undone, leaves everything as it stood', async () => {
    const before = await settled();
    const account = await recordId('account', 'Tidewise');
    const done = await rep(routeTo('repair'), {
      emails: [await idOf('alone')],
      file: [{ kind: 'account', id: account }],
      takeOff: [
        { kind: 'account', id: await recordId('account', 'Harbour Oriel') },
        { kind: 'deal', id: null },
      ],
    });
    expect(done.json.summary).toBe('Moved an email from the account Harbour Oriel and every deal to the account Tidewise');
    expect(await under('alone')).toEqual(['Ida Brandt', 'Tidewise']);
    expect((await emailOf('alone')).outcome).toBe('filed');
    expect(await settled()).not.toEqual(before);
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).status).toBe(200);
    expect(await settled()).toEqual(before);
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).json.error.code).toBe('undone');
  });

  test('takes a conversation off from an email on, and leaves what was before', async () => {
    const deal = await recordId('deal', 'Outer harbour');
    const done = await rep(routeTo('repair'), { emails: [await idOf('third')], reach: 'onward', takeOff: [{ kind: 'deal', id: deal }] });
    expect(await under('second')).toContain('Outer harbour');
    expect(await under('third')).not.toContain('Outer harbour');
    expect(await under('fourth')).not.toContain('Outer harbour');
    await rep(routeTo('undoRepair', { id: done.json.id }));
    expect(await under('fourth')).toContain('Outer harbour');
  });

  test('starts a contact with its account from an email, filled in from it, and files past mail; undone, it is gone', async () => {
    const before = await settled();
    const ids = [await idOf('other-2')];
    const [kim] = (await rep(routeTo('outsiders', { emails: ids.join(',') }))).json.people;
    expect(kim.keptOut).toBe(false);
    expect(kim).toMatchObject({
      address: 'kim@unknown.example',
      name: 'Kim Aster',
      title: 'Harbour Pilot',
      phones: ['+44 20 7946 0018'],
      company: 'Unknown',
      record: null,
    });
    const done = await rep(routeTo('repair'), {
      emails: ids,
      people: [
        {
          kind: 'contact',
          address: kim.address,
          name: kim.name,
          title: kim.title,
          phones: kim.phones,
          account: { name: kim.company, domain: kim.domain },
        },
      ],
    });
    expect(done.json.created).toHaveLength(2);
    await until(
      () => under('other-1'),
      (names) => names.includes('Kim Aster') && names.includes('Unknown'),
    );
    const contact = await recordId('contact', 'Kim Aster');
    expect((await rep(routeTo('getRecord', { kind: 'contact', id: contact }))).json.origin).toMatchObject({
      emailId: ids[0],
      rule: 'by hand',
    });
    const again = await rep(routeTo('repair'), {
      emails: ids,
      people: [{ kind: 'contact', address: kim.address, name: 'Other', account: null }],
    });
    expect(again.json.error.code).toBe('taken');
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).json.kept).toEqual([]);
    expect(await under('other-1')).toEqual([]);
    expect(await settled()).toEqual(before);
    expect(
      await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Kim Aster' UNION SELECT id FROM accounts WHERE name = 'Unknown'`),
    ).toEqual([]);
  });

  test('keeps a started record that something else depends on, and says so', async () => {
    const done = await rep(routeTo('repair'), {
      emails: [await idOf('other-1')],
      people: [{ kind: 'lead', address: 'kim@unknown.example', name: 'Kim Aster' }],
    });
    const lead = await recordId('lead', 'Kim Aster');
    const second = await rep(routeTo('repair'), { emails: [await idOf('alone')], file: [{ kind: 'lead', id: lead }] });
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).json.kept).toEqual([
      { kind: 'lead', id: lead, name: 'Kim Aster', because: 'other emails were filed under it by hand' },
    ]);
    await rep(routeTo('undoRepair', { id: second.json.id }));
    await owner(server.ownerUrl, `DELETE FROM person_addresses WHERE kind = 'lead'`);
    await owner(server.ownerUrl, 'DELETE FROM leads');
    await decideAll(server, crew.tokens.admin);
  });

  test('offers the rule after the third alike', async () => {
    const account = await recordId('account', 'Tidewise');
    const offers: unknown[] = [];
    for (const value of ['other-1', 'other-2', 'other-3']) {
      const done = await rep(routeTo('repair'), { emails: [await idOf(value)], file: [{ kind: 'account', id: account }] });
      offers.push(done.json.offer);
    }
    expect(offers.slice(0, 2)).toEqual([null, null]);
    expect(offers[2]).toMatchObject({
      step: 'match',
      rule: { when: { test: { value: 'kim@unknown.example' } }, then: { do: 'fileUnder', kind: 'account', id: account } },
    });
  });

  test('is for those who may read the email; a record that is gone is refused; nothing is changed by either', async () => {
    const before = await settled();
    await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'owner'));
    await decideAll(server, crew.tokens.admin);
    const order = { emails: [await idOf('alone')], takeOff: [{ kind: null, id: null }] };
    expect((await as('other')(routeTo('repair'), order)).json.error.code).toBe('not-yours');
    expect((await admin(routeTo('repair'), order)).json.error.code).toBe('not-yours');
    expect((await as('viewer')(routeTo('repair'), order)).status).toBe(403);
    expect((await rep(routeTo('repair'), { emails: order.emails, file: [{ kind: 'deal', id: 999_999 }] })).status).toBe(404);
    expect((await rep(routeTo('repair'), { emails: order.emails })).status).toBe(422);
    await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
    await decideAll(server, crew.tokens.admin);
    expect(await settled()).toEqual(before);
  });

  test('that takes an email from others tells their open pages, naming the records alone', async () => {
    const id = await idOf('alone');
    const heard: Change[] = [];
    const deaf = server.services.changes.hear((change) => heard.push(change));
    const done = await rep(routeTo('repair'), { emails: [id], seal: true });
    const account = await recordId('account', 'Harbour Oriel');
    await until(
      () => Promise.resolve(heard),
      (all) => all.some((change) => change.kind === 'mail' && change.to === 'everyone' && change.records.includes(`account:${account}`)),
    );
    await rep(routeTo('undoRepair', { id: done.json.id }));
    deaf();
  });

  test('that seals leaves no trace for anyone else; unsealed, it is back', async () => {
    const id = await idOf('alone');
    const seen = async (who: Who) => {
      const account = await recordId('account', 'Harbour Oriel');
      return {
        detail: (await as(who)(routeTo('getEmail', { id }))).status,
        register: (await as(who)(routeTo('listEmails'))).json.total,
        found: (await as(who)(routeTo('search', { text: 'alone' }))).json.emailTotal,
        history: (await as(who)(routeTo('getRecord', { kind: 'account', id: account }))).json.emails,
        desk: (await as(who)(routeTo('getDesk'))).json.left,
        repairs: (await as(who)(routeTo('listRepairs'))).json.repairs.length,
      };
    };
    const before = { admin: await seen('admin'), other: await seen('other') };
    expect(before.admin).toMatchObject({ detail: 200, found: 1 });
    expect((await as('other')(routeTo('repair'), { emails: [id], seal: true })).json.error.code).toBe('not-yours');
    // What was put right about it before names its people and records.
    const [about] = await owner(
      server.ownerUrl,
      'SELECT count(DISTINCT repair_id)::int AS repairs FROM pins WHERE email_id = $1 AND repair_id IN (SELECT id FROM repairs WHERE NOT sealed)',
      [id],
    );
    const done = await rep(routeTo('repair'), { emails: [id], seal: true });
    expect(await seen('admin')).toEqual({
      ...before.admin,
      detail: 404,
      register: before.admin.register - 1,
      found: 0,
      history: before.admin.history - 1,
      repairs: before.admin.repairs - Number(about?.repairs),
    });
    expect(await seen('other')).toEqual({
      ...before.other,
      detail: 404,
      register: before.other.register - 1,
      found: 0,
      history: before.other.history - 1,
    });
    expect((await rep(routeTo('getEmail', { id }))).json).toMatchObject({ outcome: 'sealed', filings: [] });
    expect((await admin(routeTo('undoRepair', { id: done.json.id }))).status).toBe(404);
    expect((await rep(routeTo('undoRepair', { id: done.json.id }))).status).toBe(200);
    expect({ admin: await seen('admin'), other: await seen('other') }).toEqual(before);
  });
});

test('a word about a conversation reaches no further into a colleague’s mailbox', async () => {
  const OTHER = 'other@quillmere.example';
  await importMail(server, crew.tokens.admin, US, {
    'shared.mbox': mbox([mail('shared', { date: day(9), from: 'Zed <zed@stranger.example>' })]),
  });
  await importMail(server, crew.tokens.admin, OTHER, {
    'theirs.mbox': mbox([{ ...mail('theirs', { date: day(10), from: 'Zed <zed@stranger.example>', references: '<shared>' }), to: OTHER }]),
  });
  const account = await recordId('account', 'Tidewise');
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.takeIn.scope = 'byHand'));
  await decideAll(server, crew.tokens.admin);
  const outcomes = () =>
    owner(server.ownerUrl, `SELECT message_id, outcome, visibility FROM emails WHERE message_id IN ('shared', 'theirs') ORDER BY 1`);
  const done = await rep(routeTo('repair'), {
    emails: [await idOf('shared')],
    reach: 'conversation',
    file: [{ kind: 'account', id: account }],
  });
  expect(await outcomes()).toEqual([
    { message_id: 'shared', outcome: 'filed', visibility: 'everyone' },
    { message_id: 'theirs', outcome: 'unfiled', visibility: 'owner' },
  ]);
  await rep(routeTo('undoRepair', { id: done.json.id }));
  const seal = await rep(routeTo('repair'), { emails: [await idOf('shared')], reach: 'conversation', seal: true });
  expect((await outcomes()).map((outcome) => outcome.outcome)).toEqual(['sealed', 'unfiled']);
  await rep(routeTo('undoRepair', { id: seal.json.id }));
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.takeIn.scope = 'external'));
  await decideAll(server, crew.tokens.admin);
}, 30_000);

test('where another email’s deal goes by score, it follows a repair and its undoing', async () => {
  const why = async (): Promise<string> => JSON.stringify((await emailOf('alone')).docket);
  const before = await why();
  expect(before).toContain('Outer harbour');
  const done = await rep(routeTo('repair'), {
    emails: [await idOf('first')],
    reach: 'conversation',
    file: [{ kind: 'deal', id: await recordId('deal', 'Inner basin') }],
  });
  await settled();
  expect(await why()).toContain('next best Inner basin 0.54');
  await rep(routeTo('undoRepair', { id: done.json.id }));
  await settled();
  expect(await why()).toBe(before);
});

test('any repairs, undone in any order, leave everything as it stood; decided again in between, nothing changes', async () => {
  const before = await settled();
  const messages = ['first', 'second', 'third', 'alone', 'other-1', 'reef'];
  const emails = Object.fromEntries(await Promise.all(messages.map(async (message) => [message, await idOf(message)] as const)));
  const records = await Promise.all(
    [
      ['deal', 'Outer harbour'],
      ['deal', 'Inner basin'],
      ['account', 'Tidewise'],
      ['account', 'Harbour Oriel'],
      ['contact', 'Ida Brandt'],
    ].map(async ([kind = '', name = '']) => ({ kind, id: await recordId(kind, name) })),
  );
  const deed = fc.oneof(
    fc.constantFrom(...records).map((item) => ({ file: [item] })),
    fc.constantFrom(...records).map((item) => ({ takeOff: [item] })),
    fc.constantFrom('deal', 'account', null).map((kind) => ({ takeOff: [{ kind, id: null }] })),
    fc.constantFrom({ settle: true }, { seal: true }),
  );
  const repairs = fc.array(
    fc.record({
      emails: fc.uniqueArray(fc.constantFrom(...messages), { minLength: 1, maxLength: 3 }),
      reach: fc.constantFrom('email', 'onward', 'soFar', 'conversation'),
      deed,
      back: fc.nat(),
    }),
    { minLength: 1, maxLength: 5 },
  );
  await fc.assert(
    fc.asyncProperty(repairs, async (all) => {
      const made: { id: number; back: number }[] = [];
      for (const item of all) {
        const done = await rep(routeTo('repair'), { emails: item.emails.map((name) => emails[name]), reach: item.reach, ...item.deed });
        expect(done.status).toBe(200);
        made.push({ id: done.json.id, back: item.back });
      }
      const repaired = await settled();
      await decideAll(server, crew.tokens.admin);
      expect(await settled()).toEqual(repaired);
      for (const { id } of made.sort((first, second) => first.back - second.back))
        expect((await rep(routeTo('undoRepair', { id }))).status).toBe(200);
      expect(await settled()).toEqual(before);
    }),
    { numRuns: 12 },
  );
}, 120_000);

/** The number beside the steps is that of the questions at the desk. */
async function sameQuestions(): Promise<void> {
  for (const who of ['rep', 'other', 'manager'] as const)
    expect((await as(who)(routeTo('getLine'))).json.questions).toBe((await as(who)(routeTo('getDesk'))).json.left);
  expect((await admin(routeTo('getLine'))).json.questions).toBe((await admin(routeTo('getDesk', { whose: 'all' }))).json.left);
}

describe('the sorting desk', () => {
  test('asks once for all emails of a conversation, with the candidates; an answer settles them', async () => {
    const desk = (await rep(routeTo('getDesk'))).json;
    const aboutReef = desk.cases.find((testCase: { about: string }) => testCase.about === 'account');
    expect(aboutReef).toMatchObject({ count: 1, domain: 'reef.example', kind: 'account' });
    expect(aboutReef.candidates.map((candidate: { name: string }) => candidate.name).sort()).toEqual(['Reef North', 'Reef South']);
    const north = aboutReef.candidates.find((candidate: { name: string }) => candidate.name === 'Reef North');
    await rep(routeTo('repair'), { emails: aboutReef.emails, reach: 'conversation', file: [{ kind: 'account', id: north.id }] });
    expect((await rep(routeTo('getDesk'))).json.left).toBe(desk.left - 1);
    await sameQuestions();
    expect(await under('reef')).toEqual(['Reef North']);
    expect((await emailOf('reef')).outcome).toBe('filed');
  });

  test('is one’s own for reps, and everything for administrators', async () => {
    expect((await as('other')(routeTo('getDesk'))).json).toMatchObject({ left: 0, emails: 0 });
    expect((await as('other')(routeTo('getDesk', { whose: 'all' }))).status).toBe(403);
    expect((await admin(routeTo('getDesk', { whose: 'all' }))).json.left).toBeGreaterThan(0);
  });

  test('passes a question to a colleague who may read the emails, and to no one else', async () => {
    const [waiting] = (await rep(routeTo('getDesk'))).json.cases;
    const before = (await rep(routeTo('getDesk'))).json.left;
    await sameQuestions();
    await owner(server.ownerUrl, `UPDATE emails SET visibility = 'owner' WHERE id = ANY($1)`, [waiting.emails]);
    expect((await rep(routeTo('passCase'), { emails: waiting.emails, to: crew.ids.other })).json.error.code).toBe('not-theirs');
    await owner(server.ownerUrl, `UPDATE emails SET visibility = 'everyone' WHERE id = ANY($1)`, [waiting.emails]);
    expect((await rep(routeTo('passCase'), { emails: waiting.emails, to: crew.ids.other })).json.passed).toBe(waiting.emails.length);
    await sameQuestions();
    expect((await rep(routeTo('getDesk'))).json.left).toBe(before - 1);
    expect((await as('other')(routeTo('getDesk'))).json.cases[0]).toMatchObject({ key: waiting.key, passedBy: 'rep person' });
  });
});

test('external people are told apart: who is known, names a function, is a machine, or is kept out', async () => {
  await importMail(server, crew.tokens.admin, US, {
    'cast.mbox': mbox([
      mail('cast', {
        date: day(22),
        cc: 'info@reef.example, Lawyer <law@firm.example>, Kim+gauge <kim+gauge@unknown.example>, other@quillmere.example',
      }),
      mail('robot', { date: day(23), from: 'no-reply@tickets.example', headers: 'Auto-Submitted: auto-generated' }),
    ]),
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    rulebook.keepOut.machineMail = [];
    rulebook.keepOut.entries.push({
      id: 'law',
      kind: 'domain',
      value: 'firm.example',
      exactly: false,
      effect: 'ignore',
      note: '',
      addedBy: '',
      addedAt: '',
    });
  });
  await decideAll(server, crew.tokens.admin);
  const { people } = (await rep(routeTo('outsiders', { emails: `${await idOf('cast')},${await idOf('robot')}` }))).json;
  const told = (address: string) => people.find((person: { address: string }) => person.address === address);
  expect(people.map((person: { address: string }) => person.address).sort()).toEqual([
    'ida@harbour.example',
    'info@reef.example',
    'kim+gauge@unknown.example',
    'law@firm.example',
    'no-reply@tickets.example',
  ]);
  expect(told('ida@harbour.example')).toMatchObject({
    record: { name: 'Ida Brandt' },
    accounts: [{ name: 'Harbour Oriel' }],
    role: false,
    machine: false,
  });
  expect(told('info@reef.example')).toMatchObject({ role: true, nameConfidence: 0 });
  expect(told('law@firm.example')).toMatchObject({ keptOut: true, record: null });
  expect(told('no-reply@tickets.example')).toMatchObject({ machine: true });
  expect((await rep(routeTo('outsiders', { emails: '1;2' }))).status).toBe(422);
});

test('whom an email concerns says what one wants to know before answering', async () => {
  const { people } = (await rep(routeTo('concernedPeople', { id: await idOf('alone') }))).json;
  expect(people).toHaveLength(1);
  expect(people[0]).toMatchObject({
    record: { kind: 'contact', name: 'Ida Brandt' },
    accounts: [{ name: 'Harbour Oriel' }],
    lastContact: { colleague: 'rep person', direction: 'received' },
  });
  expect(people[0].deals.map((deal: { name: string }) => deal.name).sort()).toEqual(['Inner basin', 'Outer harbour']);
});

test('an email is found by its Message-ID, by those who may read it', async () => {
  const id = await idOf('alone');
  expect((await rep(routeTo('findByMessageId', { id: '<alone>' }))).json).toEqual({ id });
  await owner(server.ownerUrl, `UPDATE emails SET visibility = 'owner' WHERE id = $1`, [id]);
  expect((await as('other')(routeTo('findByMessageId', { id: 'alone' }))).status).toBe(404);
  expect((await admin(routeTo('findByMessageId', { id: 'alone' }))).status).toBe(404);
  await owner(server.ownerUrl, `UPDATE emails SET visibility = 'everyone' WHERE id = $1`, [id]);
  expect((await as('other')(routeTo('findByMessageId', { id: 'alone' }))).json).toEqual({ id });
  expect((await rep(routeTo('findByMessageId', { id: 'nowhere' }))).json.error.message).toContain('may not have come in yet');
});

test('likely records come with why; by name, those are first', async () => {
  const id = await idOf('alone');
  const names = async (text: string): Promise<string[]> =>
    (await rep(routeTo('likelyRecords', { id, text }))).json.records.map((record: { name: string }) => record.name);
  const [first] = (await rep(routeTo('likelyRecords', { id }))).json.records;
  expect(first).toMatchObject({ kind: 'deal', why: expect.arrayContaining(['one of its people takes part']) });
  expect(await names('')).toEqual(expect.arrayContaining(['Outer harbour', 'Inner basin', 'Harbour Oriel', 'Ida Brandt']));
  expect((await names('tidew'))[0]).toBe('Tidewise');
});
