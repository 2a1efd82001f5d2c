import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { until } from '../testing/mailboxTools';
import type { Answer, Crew, TestServer } from '../testing/testServer';
import { changeRulebook, decisions, importMail, importRecords, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const US = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
}, 60_000);
afterAll(() => server.remove());

async function admin(target: Destination, body?: unknown): Promise<Answer['json']> {
  const answer = await server.call(target, { token: crew.tokens.admin, body });
  expect([answer.status, answer.text.slice(0, 300)]).toEqual([200, expect.anything()]);
  return answer.json;
}
const idOf = async (kind: string, name: string): Promise<number> => {
  const [row] = await owner(server.ownerUrl, `SELECT id FROM ${kind}s WHERE name = $1`, [name]);
  return Number(row?.id);
};
/** Waits until an email stands under these records and no others. */
const stands = (id: string, ...under: string[]): Promise<unknown> =>
  until(
    async () => (await decisions(server, crew.tokens.admin))[id].filings as { kind: string; name: string }[],
    (filings) => JSON.stringify(filings.map((filing) => `${filing.kind} ${filing.name}`).sort()) === JSON.stringify(under.sort()),
  );

let serial = 0;
let domain = '';
beforeEach(async () => {
  serial += 1;
  domain = `ferries${serial}.example`;
  await importMail(server, crew.tokens.admin, US, {
    [`${serial}.mbox`]: mbox([
      { id: `una-${serial}`, from: `Una Hartwig <una@${domain}>`, to: US, subject: 'Which berth?' },
      { id: `bo-${serial}`, from: `Bo Lind <bo@${domain}>`, to: US, subject: `Order FR 770${serial}` },
    ]),
  });
});
const at = (name: string): string => `${name}-${serial}`;

test('a deal’s code finds what names it, from whomever, when the code is given, changed and given up', async () => {
  await importRecords(server, crew.tokens.admin, 'deal', `code,name\n,Berths ${serial}\n`);
  const id = await idOf('deal', `Berths ${serial}`);
  await stands(at('bo'));
  await admin(routeTo('editRecord', { kind: 'deal', id }), { values: { code: `FR-770${serial}` } });
  await stands(at('bo'), `deal Berths ${serial}`);
  await stands(at('una'));
});

test('a deal of an account has the mail of all at the account, when no one is on it', async () => {
  await importRecords(server, crew.tokens.admin, 'account', `name,domains\nFerries ${serial},${domain}\n`);
  await stands(at('una'), `account Ferries ${serial}`);
  await importRecords(server, crew.tokens.admin, 'deal', `name,account\nLifts ${serial},Ferries ${serial}\n`);
  await stands(at('una'), `account Ferries ${serial}`, `deal Lifts ${serial}`);
  const deal = routeTo('editRecord', { kind: 'deal', id: await idOf('deal', `Lifts ${serial}`) });
  await importRecords(server, crew.tokens.admin, 'account', `name\nElsewhere ${serial}\n`);
  await admin(deal, { values: { account: `Elsewhere ${serial}` } });
  await stands(at('una'), `account Ferries ${serial}`);
  await admin(deal, { values: { account: `Ferries ${serial}` } });
  await stands(at('una'), `account Ferries ${serial}`, `deal Lifts ${serial}`);
  await admin(deal, { values: { open: 'no', closed_on: '2020-01-01' } });
  await stands(at('una'), `account Ferries ${serial}`);
});

test('an account without a domain is found by its name, and by its people, as soon as it has them', async () => {
  await importRecords(server, crew.tokens.admin, 'account', `name\nAnchors ${serial}\n`);
  const id = await idOf('account', `Anchors ${serial}`);
  await stands(at('una'));
  await admin(routeTo('editRecord', { kind: 'account', id }), { values: { name: `Ferries${serial} Ltd.` } });
  await stands(at('una'), `account Ferries${serial} Ltd.`);
  await admin(routeTo('editRecord', { kind: 'account', id }), { values: { name: `Anchors ${serial}` } });
  await stands(at('una'));
  await importRecords(server, crew.tokens.admin, 'contact', `name,emails,account\nCleo Brand,cleo@${domain},Anchors ${serial}\n`);
  await stands(at('una'), `account Anchors ${serial}`);
});

test('whose a domain is follows the people at it: who goes to another account, and what account gets a domain', async () => {
  await importRecords(server, crew.tokens.admin, 'account', `name\nAnchors ${serial}\nElsewhere ${serial}\n`);
  await importRecords(server, crew.tokens.admin, 'contact', `name,emails,account\nCleo Brand ${serial},cleo@${domain},Anchors ${serial}\n`);
  await stands(at('una'), `account Anchors ${serial}`);
  const cleo = routeTo('editRecord', { kind: 'contact', id: await idOf('contact', `Cleo Brand ${serial}`) });
  await admin(cleo, { values: { account: `Elsewhere ${serial}` } });
  await stands(at('una'), `account Elsewhere ${serial}`);
  await importRecords(server, crew.tokens.admin, 'contact', `name,emails,account\nDov Brand,dov@${domain},Anchors ${serial}\n`);
  await stands(at('una'));
  await admin(cleo, { values: { account: `Anchors ${serial}` } });
  await stands(at('una'), `account Anchors ${serial}`);
  await admin(routeTo('editRecord', { kind: 'account', id: await idOf('account', `Anchors ${serial}`) }), {
    values: { domains: `anchors${serial}.example` },
  });
  await stands(at('una'));
});

test('who comes to a deal brings the mail of all their addresses; who loses an address loses its mail', async () => {
  await importRecords(server, crew.tokens.admin, 'contact', `name,emails\nUna Hartwig ${serial},una.home@${domain};una@${domain}\n`);
  await stands(at('una'), `contact Una Hartwig ${serial}`);
  await importRecords(server, crew.tokens.admin, 'deal', `name,people\nMasts ${serial},una.home@${domain}\n`);
  await stands(at('una'), `contact Una Hartwig ${serial}`, `deal Masts ${serial}`);
  const deal = await idOf('deal', `Masts ${serial}`);
  await admin(routeTo('setDealPeople', { id: deal }), { people: [] });
  await stands(at('una'), `contact Una Hartwig ${serial}`);
  await admin(routeTo('editRecord', { kind: 'deal', id: deal }), { values: { people: `una.home@${domain}` } });
  await stands(at('una'), `contact Una Hartwig ${serial}`, `deal Masts ${serial}`);
  await admin(routeTo('editRecord', { kind: 'deal', id: deal }), { values: { people: '' } });
  await stands(at('una'), `contact Una Hartwig ${serial}`);
  await admin(routeTo('editRecord', { kind: 'contact', id: await idOf('contact', `Una Hartwig ${serial}`) }), {
    values: { emails: `una.home@${domain}` },
  });
  await stands(at('una'));
});

test('the email that someone was created from goes under the deal that they are put on', async () => {
  await changeRulebook(
    server,
    crew.tokens.admin,
    (rulebook) => void Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail' }),
  );
  await importMail(server, crew.tokens.admin, US, {
    'first.mbox': mbox([
      { id: 'first-of-ed', from: 'Ed Moor <ed@moorings.example>', to: US, subject: 'Chains' },
      { id: 'second-of-ed', from: 'Ed Moor <ed@moorings.example>', to: US, subject: 'Anchors' },
    ]),
  });
  await stands('first-of-ed', 'account Moorings', 'contact Ed Moor');
  await importRecords(server, crew.tokens.admin, 'deal', 'name,people\nMoor chains,ed@moorings.example\n');
  for (const value of ['first-of-ed', 'second-of-ed']) await stands(value, 'account Moorings', 'contact Ed Moor', 'deal Moor chains');
});

test('a file’s account takes over the one that mail had created for its domain, once, and says so before', async () => {
  await changeRulebook(
    server,
    crew.tokens.admin,
    (rulebook) => void Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail' }),
  );
  await importMail(server, crew.tokens.admin, US, {
    'made.mbox': mbox([{ id: 'made', from: 'Mo Sand <mo@saltworks.example>', to: US, subject: 'Salt' }]),
  });
  await stands('made', 'account Saltworks', 'contact Mo Sand');
  const text = 'name,domains\nSaltmere Holding,saltworks.example\nSaltmere Quays,saltworks.example\n';
  const preview = await admin(routeTo('previewRecords', { kind: 'account' }), { text });
  expect([preview.counts, preview.warnings]).toMatchObject([
    { create: 1, update: 1 },
    [{ line: 2, reason: 'The account “Saltworks”, which mail to its domain had created, becomes this one.' }],
  ]);
  await importRecords(server, crew.tokens.admin, 'account', text);
  await stands('made', 'account Saltmere Holding', 'contact Mo Sand');
  // By now it is someone's: another file's line of that domain is another account.
  const again = await admin(routeTo('previewRecords', { kind: 'account' }), { text: 'name,domains\nSalt Ltd,saltworks.example\n' });
  expect([again.counts, again.warnings]).toMatchObject([{ create: 1, update: 0 }, []]);
  await changeRulebook(server, crew.tokens.admin, (rulebook) => void (rulebook.create.people = 'nothing'));
});

test('merged, the one that stays has the mail that only the other’s name found; parted, each has its own', async () => {
  await importRecords(server, crew.tokens.admin, 'account', `name\nAnchors ${serial}\nFerries${serial}\n`);
  await stands(at('una'), `account Ferries${serial}`);
  const [kept, gone] = [await idOf('account', `Ferries${serial}`), await idOf('account', `Anchors ${serial}`)];
  await admin(routeTo('mergeRecords', { kind: 'account', id: kept }), { gone, take: ['name'] });
  await stands(at('una'));
  const { merges } = await admin(routeTo('listMerges'));
  await admin(routeTo('undoMerge', { id: merges[0].id }));
  await stands(at('una'), `account Ferries${serial}`);
});
