import { routeTo } from './routeTo';
import type { Destination } from './routeTo';
import { afterAll, beforeAll } from '@jest/globals';
import type { Rulebook } from '@fulvet/core';
import type { Answer, Crew, PlainEmail, TestServer } from './testServer';
import { changeRulebook, importMail, mbox, setUpCrew, startTestServer } from './testServer';

// An installation with decided mail, for the tests of drafts and trials: it starts before the first of them and goes after the last.

const rep = 'rep@quillmere.example';
export let server: TestServer;
export let crew: Crew;
export const email = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: 'ida@harbour.example',
  to: rep,
  subject: id,
  ...more,
});
export const call = (target: Destination, body?: unknown, token = crew.tokens.admin): Promise<Answer> =>
  server.call(target, { token, ...(body === undefined ? {} : { body }) });
export const rule = (id: string, when: object, then: object, more: object = {}) => ({
  id,
  name: id,
  note: '',
  on: true,
  appliesTo: { mailboxes: [], users: [] },
  when,
  then,
  ...more,
});
export const fromDomain = (value: string, which = 'any') => ({ fact: 'participant', which, test: { is: 'domain', value } });
/** Edits the draft, whatever it is. */
export async function edit(change: (rulebook: Rulebook) => void): Promise<Answer> {
  const { json } = await call(routeTo('getDraft'));
  change(json.document as Rulebook);
  return call(routeTo('putDraft', { revision: json.revision }), json.document);
}
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await call(routeTo('importRecords', { kind: 'account' }), { text: 'name,domains,type\nHarbour Oriel,harbour.example,customer\n' });
  await call(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n',
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    Object.assign(rulebook.create, { people: 'contact', after: 'weWrote' });
    rulebook.share.level = 'everyone';
  });
  const emails = [
    email('one'),
    email('two', { from: 'press@news.example' }),
    email('three', { from: 'ida@harbour.example', cc: 'press@news.example' }),
    email('new-first', { from: 'Nil Strand <nil@fish.example>', date: 'Tue, 5 May 2026 10:00:00 +0000' }),
    email('new-sent', { from: rep, to: 'Nil Strand <nil@fish.example>', date: 'Wed, 6 May 2026 10:00:00 +0000' }),
    email('letter', { from: 'news@letters.example', headers: 'List-Unsubscribe: <mailto:u@letters.example>' }),
    ...Array.from({ length: 30 }, (_, at) =>
      email(`more-${at}`, { from: `person${at}@company${at % 7}.example`, subject: at % 3 === 0 ? `Invoice ${at}` : `Hello ${at}` }),
    ),
  ];
  await importMail(server, crew.tokens.admin, rep, { 'rep.mbox': mbox(emails) });
}, 60_000);
afterAll(() => server.remove());
