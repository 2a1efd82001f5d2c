import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { Rulebook } from '@fulvet/core';
import { until } from '../testing/mailboxTools';
import type { Crew, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, decisions, importMail, mbox, setUpCrew, startTestServer } from '../testing/testServer';

type Who = keyof Crew['tokens'];
let server: TestServer;
let crew: Crew;
let id: number;
const admin = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.admin, body });

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains,owner\nHarbour Oriel,harbour.example,other@quillmere.example\n',
  });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n',
  });
  await importMail(server, crew.tokens.admin, 'rep@quillmere.example', {
    'rep.mbox': mbox([
      {
        id: 'one',
        from: 'Ida Brandt <ida@harbour.example>',
        to: 'rep@quillmere.example',
        subject: 'Barnacle plan',
        text: 'a word about barnacles',
      },
      { id: 'two', from: 'new.one@marsh.example', to: 'rep@quillmere.example', subject: 'First' },
      {
        id: 'three',
        from: 'new.one@marsh.example',
        to: 'rep@quillmere.example',
        subject: 'Second',
        date: 'Tue, 5 May 2026 10:00:00 +0000',
      },
      { id: 'four', from: 'new.one@marsh.example', to: 'rep@quillmere.example', subject: 'Third', date: 'Wed, 6 May 2026 10:00:00 +0000' },
    ]),
  });
  id = (await server.call(routeTo('listEmails', { text: 'barnacle' }), { token: crew.tokens.rep })).json.emails[0].id;
}, 60_000);
afterAll(() => server.remove());

const by = async (change: (rulebook: Rulebook) => void): Promise<void> => {
  expect((await changeRulebook(server, crew.tokens.admin, change)).status).toBe(200);
  await decideAll(server, crew.tokens.admin);
};
const shareRule = (then: object): Rulebook['share']['rules'] =>
  [{ id: 'shared', name: '', note: '', on: true, appliesTo: { mailboxes: [], users: [] }, when: { all: [] }, then }] as never;
const share = (then: object): Promise<void> => by((rulebook) => void (rulebook.share.rules = shareRule(then)));

/** What someone learns of the email, by every way. */
async function learns(who: Who): Promise<{ knows: boolean; reads: boolean; finds: number; byAddress: number }> {
  const token = crew.tokens[who];
  const detail = await server.call(routeTo('getEmail', { id }), { token });
  const finds = (await server.call(routeTo('search', { text: 'barnacles' }), { token })).json.emailTotal;
  const byAddress = (await server.call(routeTo('listEmails', { person: 'ida@harbour.example' }), { token })).json.total;
  return { knows: detail.status === 200, reads: detail.status === 200 && detail.json.content !== null, finds, byAddress };
}
const ALL = { knows: true, reads: true, finds: 1, byAddress: 1 };
const NONE = { knows: false, reads: false, finds: 0, byAddress: 0 };
const EXISTS = { knows: true, reads: false, finds: 0, byAddress: 0 };

describe('who sees an email', () => {
  test('its owner only, by default', async () => {
    expect([await learns('rep'), await learns('other'), await learns('viewer'), await learns('admin')]).toEqual([ALL, NONE, NONE, EXISTS]);
  });

  test('those who own a record that it stands under', async () => {
    await share({ do: 'record' });
    expect([await learns('rep'), await learns('other'), await learns('viewer')]).toEqual([ALL, ALL, NONE]);
    expect((await decisions(server, crew.tokens.admin)).one).toMatchObject({ visibility: 'record' });
  });

  test('a team: whoever is in it, from the moment that they are', async () => {
    const made = await admin(routeTo('addTeam'), { name: 'Coast', members: [] });
    expect((await admin(routeTo('addTeam'), { name: 'coast' })).json.error.code).toBe('exists');
    await share({ do: 'teams', teams: ['Coast'] });
    expect([await learns('manager'), await learns('viewer')]).toEqual([NONE, NONE]);
    expect((await decisions(server, crew.tokens.admin)).one).toMatchObject({ visibility: 'teams', sharedTeams: ['coast'] });
    await admin(routeTo('setTeamMembers', { id: made.json.id }), { members: [crew.ids.manager] });
    expect([await learns('manager'), await learns('viewer'), await learns('other')]).toEqual([ALL, NONE, NONE]);
    expect((await admin(routeTo('removeTeam', { id: made.json.id }))).json.error.code).toBe('in-use');
  });

  test('everyone, but only that it exists: no subject, no text, no names', async () => {
    await share({ do: 'everyone', existenceOnly: true });
    expect([await learns('rep'), await learns('viewer'), await learns('manager')]).toEqual([ALL, EXISTS, EXISTS]);
    const { text, json } = await server.call(routeTo('getEmail', { id }), { token: crew.tokens.viewer });
    expect(text).not.toMatch(/barnacle|ida@|Ida|"one/i);
    expect(json).toMatchObject({ externalDomains: ['harbour.example'], docket: [], messageId: null, content: null });
    expect(json.filings.map((filing: { kind: string }) => filing.kind)).toEqual(['account']);
    const contact = (await server.call(routeTo('listRecords', { kind: 'contact', text: 'Ida' }), { token: crew.tokens.viewer })).json
      .records[0];
    const history = await server.call(routeTo('getHistory', { kind: 'contact', id: contact.id }), { token: crew.tokens.viewer });
    expect(history.json.conversations).toEqual([]);
  });

  test('a mailbox whose owner keeps it private goes before all that', async () => {
    const { mailboxes } = (await admin(routeTo('listMailboxes'))).json;
    const mine = mailboxes.find((mailbox: { address: string }) => mailbox.address === 'rep@quillmere.example');
    await share({ do: 'everyone' });
    expect((await learns('viewer')).reads).toBe(true);
    const set = await server.call(routeTo('putMailboxSettings', { id: mine.id }), { token: crew.tokens.rep, body: { share: 'owner' } });
    expect([
      set.status,
      await until(
        () => learns('viewer'),
        (item) => !item.knows,
      ),
    ]).toEqual([200, NONE]);
    await server.call(routeTo('putMailboxSettings', { id: mine.id }), { token: crew.tokens.rep, body: { share: 'rules' } });
  });
});

describe('what the owner of a mailbox may set otherwise', () => {
  const settings = async (body: object) => {
    const { mailboxes } = (await admin(routeTo('listMailboxes'))).json;
    const mine = mailboxes.find((mailbox: { address: string }) => mailbox.address === 'rep@quillmere.example');
    return server.call(routeTo('putMailboxSettings', { id: mine.id }), { token: crew.tokens.rep, body });
  };

  test('less comes in than the rulebook says, and past mail is decided again by it', async () => {
    expect((await settings({ takeIn: 'byHand' })).json.takeIn).toBe('byHand');
    const unfiled = await until(
      async () => (await decisions(server, crew.tokens.admin)).one,
      (item) => item.outcome === 'unfiled',
    );
    expect(unfiled.filings).toEqual([]);
    await settings({ takeIn: 'rules' });
    await until(
      async () => (await decisions(server, crew.tokens.admin)).one,
      (item) => item.outcome === 'filed',
    );
  });

  test('is refused where the rulebook locks it; what was chosen before stays', async () => {
    await settings({ share: 'owner' });
    await changeRulebook(server, crew.tokens.admin, (rulebook) => void (rulebook.personal = { share: 'locked', takeIn: 'locked' }));
    const refused = await settings({ share: 'rules' });
    expect([refused.status, refused.json.error.code]).toEqual([409, 'locked']);
    expect((await settings({ takeIn: 'known' })).json.error.message).toContain('What comes in is locked by the rulebook');
    expect((await settings({ share: 'owner', direction: 'both' })).status).toBe(200);
    await changeRulebook(server, crew.tokens.admin, (rulebook) => void (rulebook.personal = { share: 'free', takeIn: 'free' }));
    expect((await settings({ share: 'rules' })).json.share).toBe('rules');
  });
});

describe('who is created', () => {
  test('after so many emails with them, earlier ones are filed too; owned by the member whom the rule names', async () => {
    await by((rulebook) => {
      rulebook.share.rules = [];
      Object.assign(rulebook.create, { people: 'lead', after: 'emails', emails: 3, owner: 'manager@quillmere.example' });
    });
    const all = await decisions(server, crew.tokens.admin);
    expect(all.four.created.map((item: { name: string }) => item.name)).toEqual(['New One']);
    expect([all.two.filings.length, all.three.created.length]).toEqual([1, 0]);
    const lead = await server.call(routeTo('getRecord', { kind: 'lead', id: all.four.created[0].id }), { token: crew.tokens.admin });
    expect(lead.text).toContain('manager person');
    expect((await decideAll(server, crew.tokens.admin)).changed).toBe(0);
  });
});

test('the check of a draft names people who are not there, a provider that stands for a company, and private mailboxes', async () => {
  const { json } = await admin(routeTo('getDraft'));
  const account = (await admin(routeTo('listRecords', { kind: 'account', text: 'Harbour' }))).json.records[0];
  const when = { fact: 'participant', which: 'any', test: { is: 'domain', value: 'gmail.com' } };
  const appliesTo = { mailboxes: [], users: ['nobody@quillmere.example'], teams: ['no such team'] };
  const rules = [
    { id: 'odd', name: 'Odd', when, appliesTo, then: { do: 'fileUnder', kind: 'account', id: account.id, name: account.name } },
  ];
  await admin(routeTo('putDraft', { revision: json.revision }), { ...json.document, match: { ...json.document.match, rules } });
  const codes = (await admin(routeTo('checkDraft'))).json.findings.map((finding: { code: string; message: string }) => finding.code);
  expect(codes.filter((code: string) => code === 'people-gone')).toHaveLength(2);
  expect(codes).toContain('provider-company');
});
