import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, importMail, mbox, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
const rep = 'rep@quillmere.example';
const ids = new Map<string, number>();
const records = new Map<string, number>();

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const put = (kind: string, text: string) => server.call(routeTo('importRecords', { kind }), { token: crew.tokens.admin, body: { text } });
  await put('account', 'name,domains\nHarbour Oriel,harbour.example\nNorth,north.example\n');
  await put('contact', 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n');
  await put('deal', 'code,name,account,people\nQH-1,Gauges,Harbour Oriel,ida@harbour.example\nQH-2,Weir,North,\n');
  await importMail(server, crew.tokens.admin, rep, {
    'rep.mbox': mbox([
      { id: 'known', from: 'ida@harbour.example', to: rep, subject: 'Known' },
      {
        id: 'answer',
        from: rep,
        to: 'ida@harbour.example',
        subject: 'Re: Known',
        references: '<known>',
        date: 'Tue, 5 May 2026 10:00:00 +0000',
      },
      { id: 'out', from: 'secret.name@letter.example', to: rep, subject: 'Out' },
    ]),
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    rulebook.keepOut.entries.push({
      id: 'out-letter',
      kind: 'domain',
      value: 'letter.example',
      exactly: false,
      effect: 'ignore',
      note: '',
      addedBy: '',
      addedAt: '',
    });
    rulebook.keepOut.rules.push({
      id: 'near',
      name: 'Invoices',
      note: '',
      on: true,
      appliesTo: { mailboxes: [], users: [] },
      when: {
        all: [
          { fact: 'participant', which: 'any', test: { is: 'domain', value: 'harbour.example', exactly: false } },
          { fact: 'subject', test: { contains: ['invoice'] } },
        ],
      },
      then: { do: 'keepOut' },
    });
  });
  await decideAll(server, crew.tokens.admin);
  for (const email of (await server.call(routeTo('listEmails'), { token: crew.tokens.rep })).json.emails)
    ids.set(email.content?.subject ?? 'Out', email.id);
  for (const kind of ['account', 'deal'])
    for (const record of (await server.call(routeTo('listRecords', { kind }), { token: crew.tokens.rep })).json.records)
      records.set(record.name, record.id);
});
afterAll(() => server.remove());

const ask = (target: Destination, token: string | undefined = crew.tokens.rep) => server.call(target, { token });
const whyNot = (email: string, kind: string, record: string, token?: string) =>
  ask(routeTo('whyNot', { id: ids.get(email), kind, record: records.get(record) }), token);

describe('why not', () => {
  test('a deal: with the reasons, and with changes that were tried', async () => {
    const { json } = await whyNot('Known', 'deal', 'Weir');
    expect(json).toMatchObject({ filed: false, name: 'Weir' });
    expect(json.reasons.join(' ')).toContain('No one is on it, so no email leads to it by its people.');
    expect(json.changes).toContain('the subject named its code, QH-2');
  });

  test('knows what the conversation stands under', async () => {
    const { json } = await whyNot('Re: Known', 'deal', 'Weir');
    expect(json.reasons).toContain('The conversation is filed under another deal, and answers follow it.');
    expect((await whyNot('Re: Known', 'deal', 'Gauges')).json).toMatchObject({ filed: true, changes: [] });
  });

  test('of kept-out mail tells the step, and no name', async () => {
    const { json } = await whyNot('Out', 'account', 'North');
    expect(json.reasons.join(' ')).toContain('letter.example');
    expect(JSON.stringify(json)).not.toContain('secret.name');
    expect((await ask(routeTo('explainEmail', { id: ids.get('Out') }))).json).toEqual({ nearly: [], changes: [] });
  });

  test('is for those who may read the email: an administrator is told no more than anybody', async () => {
    expect((await whyNot('Known', 'deal', 'Weir', crew.tokens.admin)).json.error.code).toBe('not-yours');
    expect((await ask(routeTo('explainEmail', { id: ids.get('Known') }), crew.tokens.admin)).json.error.code).toBe('not-yours');
    expect((await whyNot('Known', 'deal', 'Weir', crew.tokens.viewer)).status).toBe(404);
    expect((await ask(routeTo('whyNot', { id: ids.get('Known'), kind: 'deal', record: 99999 }))).status).toBe(404);
  });
});

test('what nearly happened, and what would have to change', async () => {
  const { json } = await ask(routeTo('explainEmail', { id: ids.get('Known') }));
  expect(json.nearly).toEqual([{ step: 'Keep out', rule: 'near', text: '“Invoices” would apply if the subject says “invoice”.' }]);
  expect(json.changes).toContainEqual({ change: 'filed mail were seen by everyone', then: 'it would be filed, seen by everyone.' });
});
