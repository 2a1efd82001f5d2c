import { routeTo } from '../testing/routeTo';
import type { Destination } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Rulebook } from '@fulvet/core';
import type { Answer, Crew, PlainEmail, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, finished, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

const rep = 'rep@quillmere.example';
let server: TestServer;
let crew: Crew;

const as = (who: 'admin' | 'rep', target: Destination, body?: unknown): Promise<Answer> =>
  server.call(target, { token: crew.tokens[who], ...(body === undefined ? {} : { body }) });
const tried = async (body: object = {}): Promise<Answer['json']> => {
  const { json } = await as('admin', routeTo('startTrial'), body);
  return finished(server, crew.tokens.admin, routeTo('getTrial', { id: json.id }));
};
const summaryOf = async (id: number): Promise<Answer['json']> => (await as('admin', routeTo('getTrial', { id }))).json.summary;
async function idOf(messageId: string): Promise<number> {
  const rows = await owner(server.ownerUrl, 'SELECT id FROM emails WHERE message_id = $1', [messageId]);
  return Number(rows[0]?.id);
}

/** Mail that stays as it stands, that is let in, that is kept out, that is sent, and that would create a person. */
const MAIL: PlainEmail[] = [
  { id: 'known', from: 'ida@harbour.example', to: rep, subject: 'Gauges' },
  { id: 'known-too', from: 'ida@harbour.example', to: rep, subject: 'Buoys' },
  { id: 'press', from: 'editor@press.example', to: rep, subject: 'A story' },
  { id: 'press-too', from: 'editor@press.example', to: rep, subject: 'Another story' },
  { id: 'stranger', from: rep, to: 'Nil Strand <nil@fish.example>', subject: 'Nets' },
  { id: 'stranger-too', from: rep, to: 'Ada Nauta <ada@nets.example>', subject: 'Floats' },
  { id: 'letter', from: 'news@letters.example', to: rep, subject: 'News', headers: 'List-Unsubscribe: <mailto:u@letters.example>' },
];

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await as('admin', routeTo('importRecords', { kind: 'account' }), { text: 'name,domains\nHarbour Oriel,harbour.example\n' });
  await as('admin', routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n',
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    Object.assign(rulebook.create, { people: 'nothing' });
    rulebook.takeIn.scope = 'known';
  });
  await importMail(server, crew.tokens.admin, rep, { 'rep.mbox': mbox(MAIL) });
  await decideAll(server, crew.tokens.admin);
  const { json } = await as('admin', routeTo('getDraft'));
  const draft = json.document as Rulebook;
  draft.takeIn.scope = 'external';
  Object.assign(draft.create, { people: 'contact', after: 'weWrote', accounts: true });
  draft.share.level = 'everyone';
  await as('admin', routeTo('putDraft', { revision: json.revision }), draft);
}, 60_000);
afterAll(() => server.remove());

test.each(['known', 'press', 'stranger'])(
  'an email that is sealed after a trial counted it is in none of its numbers: %s',
  async (which) => {
    const before = await tried({ name: `before ${which}` });
    const id = await idOf(which);
    expect((await as('rep', routeTo('addSharingChoice'), { does: 'seal', scope: 'email', emailId: id })).status).toBeLessThan(300);
    const after = await tried();
    const left = await summaryOf(before.id);
    expect(left.emails).toBe(before.summary.emails - 1);
    expect(left).toEqual(after.summary);
    expect(left).not.toEqual(before.summary);
    const kept = await owner(
      server.ownerUrl,
      'SELECT FROM trial_rows WHERE email_id = $1 UNION ALL SELECT FROM trial_dockets WHERE email_id = $1',
      [id],
    );
    expect(kept).toHaveLength(0);
  },
);

test('a trial that did not count it keeps its numbers, and unsealed mail is in the next one again', async () => {
  const other = await tried({ mailboxes: ['other@quillmere.example'] });
  const all = await tried();
  const id = await idOf('press-too');
  const word = (await as('rep', routeTo('addSharingChoice'), { does: 'seal', scope: 'email', emailId: id })).json;
  expect(await summaryOf(other.id)).toEqual(other.summary);
  expect((await as('rep', routeTo('removeSharingChoice', { id: word.id }))).status).toBeLessThan(300);
  expect((await tried()).summary).toEqual(all.summary);
});

test('much mail that is sealed at once with a company is in no number, whether rules or a kept-out domain tell of it', async () => {
  const before = await tried();
  expect((await as('rep', routeTo('addSharingChoice'), { does: 'seal', scope: 'domain', value: 'nets.example' })).status).toBeLessThan(300);
  const left = await summaryOf(before.id);
  expect(left).toEqual((await tried()).summary);
  expect(JSON.stringify(before.summary)).toContain('nets.example');
  expect(JSON.stringify(left)).not.toContain('nets.example');
});
