import { routeTo } from './routeTo';
import type { Destination } from './routeTo';
import { afterAll, beforeAll, expect } from '@jest/globals';
import type { Answer, Crew, PlainEmail, TestServer } from './testServer';
import { changeRulebook, importMail, mbox, owner, setUpCrew, startTestServer } from './testServer';

// An installation with mail of a rep, for the tests of who sees what: it starts before the first of them and goes after the last.

export type Who = keyof Crew['tokens'];
export let server: TestServer;
export let crew: Crew;
export const as = (who: Who) => (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens[who], body });
const ida = 'Ida Brandt <ida@harbour.example>';
export const dentist = 'Dr Finn Vale <finn@teeth.example>';
export const US = 'rep@quillmere.example';
export const mail = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: ida,
  to: US,
  subject: `About ${id}`,
  text: `word${id}`,
  ...more,
});
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  const admin = as('admin');
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains,owner\nHarbour Oriel,harbour.example,\nMarsh,marsh.example,manager@quillmere.example\n',
  });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n',
  });
  await admin(routeTo('importRecords', { kind: 'deal' }), {
    text: 'code,name,account,people,open,owner\nQH-1001,Outer harbour,Harbour Oriel,ida@harbour.example,yes,other@quillmere.example\n',
  });
  const put = await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    rulebook.share = { level: 'everyone', existenceOnly: true, rules: [] };
    rulebook.create = { ...rulebook.create, people: 'contact', after: 'firstEmail' };
    rulebook.keepOut.entries = [
      { id: 'school', kind: 'domain', value: 'school.example', exactly: false, effect: 'ignore', note: '' },
    ] as never;
  });
  expect(put.text.slice(0, 200)).not.toContain('error');
  await importMail(server, crew.tokens.admin, US, {
    'rep.mbox': mbox([
      mail('one'),
      mail('two', { references: '<one>', date: 'Tue, 5 May 2026 10:00:00 +0000' }),
      mail('three', { date: 'Wed, 6 May 2026 10:00:00 +0000' }),
      mail('tooth-1', { from: dentist, date: 'Thu, 7 May 2026 10:00:00 +0000' }),
      mail('tooth-2', { from: dentist, date: 'Fri, 8 May 2026 10:00:00 +0000' }),
      mail('school-1', { from: 'Office <office@school.example>', date: 'Sat, 9 May 2026 10:00:00 +0000' }),
    ]),
  });
}, 60_000);
afterAll(() => server.remove());
export async function idOf(messageId: string): Promise<number> {
  const [row] = await owner(server.ownerUrl, 'SELECT id FROM emails WHERE message_id = $1', [messageId]);
  return Number(row?.id);
}
export const knows = async (who: Who, messageId: string): Promise<'nothing' | 'exists' | 'reads'> => {
  const answer = await as(who)(routeTo('getEmail', { id: await idOf(messageId) }));
  return answer.status === 404 ? 'nothing' : answer.json.content === null ? 'exists' : 'reads';
};
export const recordId = async (kind: string, name: string): Promise<number | null> => {
  const [row] = await owner(server.ownerUrl, `SELECT id FROM ${kind}s WHERE name = $1`, [name]);
  return row ? Number(row.id) : null;
};
export const good = (answer: Answer): Answer['json'] => {
  expect([answer.status, answer.text.slice(0, 300)]).toEqual([200, expect.anything()]);
  return answer.json;
};
