import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Answer, Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

type Who = keyof Crew['tokens'];
let server: TestServer;
let crew: Crew;
let account: number;
const REP = 'rep@quillmere.example';
const OTHER = 'other@quillmere.example';
const as = (who: Who) => (target: Destination) => server.call(target, { token: crew.tokens[who] });

/** 60 emails in 20 conversations with three people of one company; every fourth conversation also lies in a colleague's mailbox. */
const mails = Array.from({ length: 60 }, (_, at): PlainEmail & { both: boolean } => {
  const conversation = at % 20;
  const person = `p${conversation % 3}@harbour.example`;
  const sent = Math.floor(at / 20) === 1;
  return {
    id: `m${at}`,
    from: sent ? REP : person,
    to: sent ? person : REP,
    cc: conversation % 4 === 0 ? OTHER : '',
    subject: `About ${conversation}`,
    text: at % 7 === 0 ? 'the barnacle report' : 'Hello',
    date: new Date(Date.UTC(2026, 3, 1 + at, 8)).toUTCString(),
    ...(at >= 20 ? { references: `<m${conversation}>` } : {}),
    both: conversation % 4 === 0,
  };
});

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const put = (kind: string, text: string) => server.call(routeTo('importRecords', { kind }), { token: crew.tokens.admin, body: { text } });
  await put('account', 'name,domains\nHarbour Oriel,harbour.example\n');
  await put('contact', 'name,emails,account\nPia,p0@harbour.example,Harbour Oriel\nPer,p1@harbour.example,Harbour Oriel\n');
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  await importMail(server, crew.tokens.admin, REP, { 'rep.mbox': mbox(mails) });
  await importMail(server, crew.tokens.admin, OTHER, { 'other.mbox': mbox(mails.filter((email) => email.both)) });
  const [row] = await owner(server.ownerUrl, 'SELECT id FROM accounts');
  account = Number(row?.id);
}, 60_000);
afterAll(() => server.remove());

interface Conversation {
  id: number;
  lastAt: string;
  emailCount: number;
  emails: { id: number; at: string; mailboxes: string[]; content: unknown }[];
}

/** All pages of a history, one after another. */
async function wholeHistory(who: Who, filter: object, limit: number): Promise<Conversation[]> {
  const found: Conversation[] = [];
  let after = '';
  do {
    const { json } = await as(who)(routeTo('getHistory', { kind: 'account', id: account, limit, after, ...filter }));
    found.push(...(json.conversations as Conversation[]));
    after = (json.next as string | null) ?? '';
  } while (after !== '');
  return found;
}

describe('a history', () => {
  test('has each email once, however many mailboxes hold it, conversations newest first', async () => {
    const all = await wholeHistory('viewer', {}, 50);
    const emails = all.flatMap((conversation) => conversation.emails);
    expect(emails).toHaveLength(60);
    expect(new Set(emails.map((email) => email.id)).size).toBe(60);
    expect(emails.filter((email) => email.mailboxes.length === 2)).toHaveLength(15);
    expect(all.map((conversation) => conversation.lastAt)).toEqual([...all.map((conversation) => conversation.lastAt)].sort().reverse());
    for (const conversation of all)
      expect(conversation.emails.map((email) => email.at)).toEqual([...conversation.emails.map((email) => email.at)].sort());
  });

  test('is the same in pages of any size, with any filter', async () => {
    const filters = [
      {},
      { direction: 'sent' },
      { direction: 'received' },
      { text: 'barnacle' },
      { until: '2026-04-25' },
      { person: 'p1@harbour.example' },
      { colleague: crew.ids.other },
    ];
    await fc.assert(
      fc.asyncProperty(fc.constantFrom(...filters), fc.integer({ min: 1, max: 9 }), async (filter, limit) => {
        const whole = await wholeHistory('rep', filter, 50);
        expect(await wholeHistory('rep', filter, limit)).toEqual(whole);
        const { found } = (await as('rep')(routeTo('getHistory', { kind: 'account', id: account, limit, ...filter }))).json;
        expect(found).toEqual({
          conversations: whole.length,
          events: 0,
          emails: whole.reduce((sum, conversation) => sum + conversation.emailCount, 0),
        });
      }),
      { numRuns: 25 },
    );
  });

  test('of a contact and of the domain hold what the account holds', async () => {
    const [pia] = await owner(server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Pia'`);
    expect((await as('rep')(routeTo('getHistory', { kind: 'contact', id: pia?.id }))).json.found).toEqual({
      conversations: 7,
      emails: 21,
      events: 0,
    });
    expect((await as('rep')(routeTo('getDomainHistory', { domain: 'harbour.example' }))).json.found).toEqual({
      conversations: 20,
      events: 0,
      emails: 60,
    });
    // What is under a whole country’s domain is no one’s.
    expect((await as('rep')(routeTo('getDomainHistory', { domain: 'example' }))).json.found.emails).toBe(0);
    expect((await as('rep')(routeTo('getDomainHistory', { domain: 'arbour.example' }))).json.found.emails).toBe(0);
  });

  test('refuses a cursor that it did not give', async () => {
    expect((await as('rep')(routeTo('getHistory', { kind: 'account', id: account, after: 'nonsense' }))).status).toBe(422);
  });
});

describe('where only that mail exists is seen', () => {
  beforeAll(async () => {
    await changeRulebook(server, crew.tokens.admin, (rulebook) => {
      rulebook.share.level = 'everyone';
      rulebook.share.existenceOnly = true;
    });
    await decideAll(server, crew.tokens.admin);
  }, 60_000);

  test('a history has every email without what it says, and no filter tells of it', async () => {
    const all = await wholeHistory('viewer', {}, 50);
    expect(all.flatMap((conversation) => conversation.emails).every((email) => email.content === null)).toBe(true);
    for (const filter of [{ text: 'barnacle' }, { person: 'p1@harbour.example' }, { attachment: 'yes' }])
      expect(await wholeHistory('viewer', filter, 50)).toEqual([]);
    // Those who use a mailbox read what lies in it.
    expect((await wholeHistory('rep', { text: 'barnacle' }, 50)).length).toBeGreaterThan(0);
  });

  test('what stands beside it names no one, quotes nothing, and counts the same', async () => {
    const insights: Answer['json'] = (await as('viewer')(routeTo('getInsights', { kind: 'account', id: account }))).json;
    expect(insights.figures.emails).toBe(60);
    expect(insights.acquaintances).toEqual([]);
    expect(insights.unanswered.every((item: { subject: string; from: string }) => item.subject === '' && item.from === '')).toBe(true);
    expect(JSON.stringify(insights)).not.toMatch(/barnacle|About \d|p\d@harbour/);
  });
});
