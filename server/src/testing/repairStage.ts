import { routeTo } from './routeTo';
import type { Destination } from './routeTo';
import { afterAll, beforeAll } from '@jest/globals';
import type { Answer, Crew, PlainEmail, TestServer } from './testServer';
import { changeRulebook, importMail, mbox, owner, setUpCrew, startTestServer } from './testServer';
import { until } from './mailboxTools';

// An installation with accounts, deals and mail of a rep, for the tests of repairs: it starts before the first of them and goes after the last.

export type Who = keyof Crew['tokens'];
export let server: TestServer;
export let crew: Crew;
export const as = (who: Who) => (target: Destination, body?: unknown) => server.call(target, { token: crew.tokens[who], body });
export const rep = (target: Destination, body?: unknown) => as('rep')(target, body);
export const admin = (target: Destination, body?: unknown) => as('admin')(target, body);
const ida = 'Ida Brandt <ida@harbour.example>';
export const US = 'rep@quillmere.example';
export const mail = (id: string, more: Partial<PlainEmail> = {}): PlainEmail => ({ id, from: ida, to: US, subject: id, ...more });
export const day = (n: number): string => `${String(n).padStart(2, '0')} May 2026 10:00:00 +0000`;
beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await admin(routeTo('importRecords', { kind: 'account' }), {
    text: 'name,domains\nHarbour Oriel,harbour.example\nTidewise,tidewise.example\nReef North,reef.example\nReef South,reef.example\n',
  });
  await admin(routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n',
  });
  await admin(routeTo('importRecords', { kind: 'deal' }), {
    text: 'code,name,account,people,open\nQH-1001,Outer harbour,Harbour Oriel,ida@harbour.example,yes\nQH-1002,Inner basin,Harbour Oriel,ida@harbour.example,yes\n',
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  await importMail(server, crew.tokens.admin, US, {
    'rep.mbox': mbox([
      mail('first', { date: day(1) }),
      mail('second', { date: day(2), references: '<first>' }),
      mail('third', { date: day(3), references: '<first>' }),
      mail('alone', { date: day(4) }),
      mail('other-1', { date: day(5), from: 'Kim Aster <kim@unknown.example>' }),
      mail('other-2', {
        date: day(6),
        from: 'Kim Aster <kim@unknown.example>',
        text: 'Hello\n\n-- \nKim Aster\nHarbour Pilot\n+44 20 7946 0018\n',
      }),
      mail('other-3', { date: day(7), from: 'Kim Aster <kim@unknown.example>' }),
      mail('reef', { date: day(8), from: 'Ola <ola@reef.example>' }),
    ]),
  });
}, 60_000);
afterAll(() => server.remove());
export async function emailOf(messageId: string): Promise<Answer['json']> {
  const [row] = await owner(server.ownerUrl, 'SELECT id FROM emails WHERE message_id = $1', [messageId]);
  return { id: Number(row?.id), ...(await rep(routeTo('getEmail', { id: row?.id }))).json };
}
export const idOf = async (messageId: string): Promise<number> => (await emailOf(messageId)).id;
export const under = async (messageId: string): Promise<string[]> =>
  (await emailOf(messageId)).filings.map((filing: { name: string }) => filing.name).sort();
export async function recordId(kind: string, name: string): Promise<number> {
  const [row] = await owner(server.ownerUrl, `SELECT id FROM ${kind}s WHERE name = $1`, [name]);
  return Number(row?.id);
}

/** All that decisions say, but for when they were made. */
export const standing = () =>
  owner(
    server.ownerUrl,
    `SELECT e.message_id, e.outcome, e.visibility, e.steps, k.docket, k.questions, (SELECT jsonb_agg(to_jsonb(f) ORDER BY f.kind, f.record_id) FROM filings f WHERE f.email_id = e.id) AS filings
     FROM emails e LEFT JOIN dockets k ON k.email_id = e.id ORDER BY e.id`,
  );

/** What stands when nothing waits for being decided: emails whose deal goes by score follow a repair by a job. */
export async function settled(): ReturnType<typeof standing> {
  await until(
    () => owner(server.ownerUrl, 'SELECT count(*)::int AS open FROM emails WHERE decided_at IS NULL'),
    ([row]) => row?.open === 0,
  );
  return standing();
}
