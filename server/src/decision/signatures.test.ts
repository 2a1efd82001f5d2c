import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
const REP = 'rep@quillmere.example';
const signed = (name: string, lines: string): string => `Hello,\n\nthe gauge works.\n\n-- \n${name}\n${lines}\n`;
const mail = (id: string, from: string, text: string, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from,
  to: REP,
  text,
  subject: id,
  ...more,
});

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true });
    rulebook.create.rules = [
      {
        id: 'leads',
        name: '',
        note: '',
        on: true,
        appliesTo: { mailboxes: [], users: [], teams: [] },
        when: { fact: 'participant', which: 'this', test: { is: 'domain', value: 'fair-visitor.example', exactly: false } },
        then: { do: 'lead', account: false, after: 'firstEmail', emails: 1, owner: 'mailbox' },
      },
    ] as never;
  });
  await importMail(server, crew.tokens.admin, REP, {
    'rep.mbox': mbox([
      mail('full', 'Ida Brandt <ida@bkw-hafen.example>', signed('Ida Brandt', 'Head of Surveying, BKW HAFEN GmbH\n+44 20 7946 0018')),
      mail('lead', 'Lea Ost <lea@fair-visitor.example>', signed('Lea Ost', 'Buyer, Fair Visitor\nTel. +49 30 901820')),
      mail('forwarded', 'Jo Lund <jo@other.example>', signed('Somebody Else', 'Director\n+44 20 7946 0099')),
      mail('told of', 'Kim Aster <kim@third.example>', signed('Kim Aster', 'Pilot'), { cc: 'Ned Ash <ned@third.example>' }),
      mail('function', 'info@harbour-office.example', signed('Front desk', 'Reception\n+44 20 7946 0077')),
    ]),
  });
  await decideAll(server, crew.tokens.admin);
}, 60_000);
afterAll(() => server.remove());

const person = (kind: string, name: string) => owner(server.ownerUrl, `SELECT title, phones FROM ${kind}s WHERE name = $1`, [name]);

test('a new contact has title and telephone of the signature, and the account its name as they write it', async () => {
  expect(await person('contact', 'Ida Brandt')).toEqual([{ title: 'Head of Surveying', phones: ['+44 20 7946 0018'] }]);
  const accounts = await owner(
    server.ownerUrl,
    'SELECT a.name FROM accounts a JOIN account_domains d ON d.account_id = a.id WHERE d.domain = $1',
    ['bkw-hafen.example'],
  );
  expect(accounts).toEqual([{ name: 'BKW HAFEN GmbH' }]);
});

test('a new lead has its company, too', async () => {
  expect(await owner(server.ownerUrl, `SELECT title, phones, company FROM leads WHERE name = 'Lea Ost'`)).toEqual([
    { title: 'Buyer', phones: ['+49 30 901820'], company: 'Fair Visitor' },
  ]);
});

test('nothing is taken from someone else’s signature, and nothing for those who only got the email', async () => {
  expect(await person('contact', 'Jo Lund')).toEqual([{ title: '', phones: [] }]);
  expect(await person('contact', 'Kim Aster')).toEqual([{ title: 'Pilot', phones: [] }]);
  expect(await person('contact', 'Ned Ash')).toEqual([{ title: '', phones: [] }]);
});

test('a function becomes nobody', async () => {
  expect(await owner(server.ownerUrl, `SELECT FROM person_addresses WHERE address LIKE 'info@%'`)).toEqual([]);
});

test('what people changed of a record stays when its email is decided again', async () => {
  const [row] = await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Ida Brandt'`);
  await server.call(routeTo('editRecord', { kind: 'contact', id: row?.id }), {
    token: crew.tokens.rep,
    body: { values: { title: 'Director' } },
  });
  await decideAll(server, crew.tokens.admin);
  expect(await person('contact', 'Ida Brandt')).toEqual([{ title: 'Director', phones: ['+44 20 7946 0018'] }]);
});
