import { routeTo } from '../testing/routeTo';
import { describe, expect, test } from '@jest/globals';
import { changeRulebook, decideAll, importMail, mbox, owner } from '../testing/testServer';
import { server, crew, as, rep, admin, US, mail, day, emailOf, idOf, under } from '../testing/repairStage';

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
