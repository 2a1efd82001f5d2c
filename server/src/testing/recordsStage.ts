import { routeTo } from './routeTo';
import type { Destination } from './routeTo';
import { afterAll, beforeAll } from '@jest/globals';
import type { Crew, PlainEmail, TestServer } from './testServer';
import { changeRulebook, importMail, mbox, owner, setUpCrew, startTestServer } from './testServer';

// An installation with records and mail about them: it starts before the first test and goes after the last.

export let server: TestServer;
export let crew: Crew;
export const rep = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.rep, body });
export const admin = (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens.admin, body });
export const US = 'rep@quillmere.example';
const ago = (days: number): string => new Date(Date.now() - days * 86_400_000).toUTCString().replace('GMT', '+0000');
export const mail = (id: string, days: number, more: Partial<PlainEmail> = {}): PlainEmail => ({
  id,
  from: 'Ida Brandt <ida@harbour.example>',
  to: US,
  subject: id,
  date: ago(days),
  ...more,
});
const answer = (id: string, days: number, to: string, more: Partial<PlainEmail> = {}): PlainEmail =>
  mail(id, days, { from: `Rep Person <${US}>`, to, ...more });
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains,type\nHarbour Oriel,harbour.example,customer\nTidewise,tidewise.example,reseller\n',
  });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\nRavi Sen,ravi@tidewise.example,Tidewise\n',
  });
  await admin(routeTo('importRecords', { kind: 'deal' }), {
    text: 'code,name,account,people,stage,amount,currency\nQH-1001,Outer harbour,Harbour Oriel,ravi@tidewise.example,Quoted,12000,EUR\n',
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  const invitation =
    'BEGIN:VCALENDAR\r\nMETHOD:REQUEST\r\nVERSION:2.0\r\nBEGIN:VEVENT\r\nUID:visit\r\nSEQUENCE:0\r\nDTSTART:20990504T090000Z\r\nDTEND:20990504T100000Z\r\nSUMMARY:Site visit\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n';
  await importMail(server, crew.tokens.admin, US, {
    'rep.mbox': mbox([
      mail('asked', 30),
      answer('answered', 29, 'ida@harbour.example', { references: '<asked>' }),
      mail('thanks', 28, { references: '<asked>', text: 'the barnacle report' }),
      mail('again', 27, { references: '<asked>' }),
      answer('offer', 10, 'ida@harbour.example'),
      mail('quiet', 200),
      mail('through-reseller', 5, { from: 'Ravi Sen <ravi@tidewise.example>', subject: 'QH-1001 order' }),
      mail('invitation', 3, { headers: 'Content-Type: text/calendar; method=REQUEST; charset=utf-8', text: invitation }),
    ]),
  });
}, 60_000);
afterAll(() => server.remove());
export async function idOf(kind: string, name: string): Promise<number> {
  const [row] = await owner(server.ownerUrl, `SELECT id FROM ${kind}s WHERE name = $1`, [name]);
  return Number(row?.id);
}
