import { routeTo } from '../testing/routeTo';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { Crew, TestServer } from '../testing/testServer';
import { changeRulebook, decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from '../testing/testServer';

let server: TestServer;
let crew: Crew;
const REP = 'rep@quillmere.example';

/** A delivery report about an email to an address. */
const report = (id: string, address: string, about: string, date: string, status = '5.1.1'): string =>
  `From mailer@mx.example ${date}
From: MAILER-DAEMON@mx.example
To: ${REP}
Subject: Undelivered Mail Returned to Sender
Message-ID: <${id}@mx.example>
Date: ${date}
MIME-Version: 1.0
Content-Type: multipart/report; report-type=delivery-status; boundary="b"

--b
Content-Type: text/plain

Your message could not be delivered.

--b
Content-Type: message/delivery-status

Reporting-MTA: dns; mx.example

Final-Recipient: rfc822; ${address}
Action: failed
Status: ${status}

--b
Content-Type: text/rfc822-headers

Message-ID: <${about}>

--b--

`;
const sent = (id: string, to: string, date: string) => mbox([{ id, from: REP, to, subject: `About ${id}`, date }]);

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await changeRulebook(server, crew.tokens.admin, (rulebook) => {
    Object.assign(rulebook.create, { people: 'contact', after: 'firstEmail', accounts: true });
  });
}, 60_000);
afterAll(() => server.remove());

const take = async (files: Record<string, string>): Promise<void> => {
  await importMail(server, crew.tokens.admin, REP, files);
  await decideAll(server, crew.tokens.admin);
};
const idOf = async (subject: string): Promise<string> => {
  const [row] = await owner(
    server.ownerUrl,
    'SELECT e.message_id AS id FROM emails e JOIN email_contents c ON c.email_id = e.id WHERE c.subject = $1',
    [subject],
  );
  return String(row?.id);
};
const people = async (): Promise<string[]> => {
  const rows = await owner(server.ownerUrl, 'SELECT address FROM person_addresses ORDER BY address');
  return rows.map((row) => String(row.address));
};
const accounts = async (): Promise<string[]> => {
  const rows = await owner(server.ownerUrl, 'SELECT domain FROM account_domains ORDER BY domain');
  return rows.map((row) => String(row.domain));
};
const because = async (subject: string): Promise<string> => {
  const [row] = await owner(
    server.ownerUrl,
    'SELECT d.docket::text AS docket FROM dockets d JOIN email_contents c ON c.email_id = d.email_id WHERE c.subject = $1',
    [subject],
  );
  return String(row?.docket);
};

test('an address that bounces takes back the contact and the account that it created', async () => {
  await take({ 'a.mbox': sent('one', 'ida@harbour-oriel.example', '2026-02-01') });
  expect([await people(), await accounts()]).toEqual([['ida@harbour-oriel.example'], ['harbour-oriel.example']]);
  await take({ 'b.mbox': report('b1', 'ida@harbour-oriel.example', await idOf('About one'), 'Mon, 02 Feb 2026 08:00:00 +0000') });
  expect([await people(), await accounts()]).toEqual([[], []]);
  expect(await because('About one')).toContain('undeliverable');
  // Nor is it created again by the next email.
  await take({ 'c.mbox': sent('two', 'ida@harbour-oriel.example', '2026-02-03') });
  expect(await people()).toEqual([]);
});

test('an answer from the address proves that someone is there', async () => {
  await take({
    'd.mbox': mbox([{ id: 'answer', from: 'Ida Brandt <ida@harbour-oriel.example>', to: REP, subject: 'Late', date: '2026-02-05' }]),
  });
  expect([await people(), await accounts()]).toEqual([['ida@harbour-oriel.example'], ['harbour-oriel.example']]);
  expect(await because('About one')).not.toContain('undeliverable');
});

test('the order in which a report and its email come makes no difference, and neither does a full mailbox', async () => {
  const about = 'later@quillmere.example';
  await take({ 'e.mbox': report('b2', 'jo@quay.example', about, 'Tue, 10 Feb 2026 08:00:00 +0000') });
  await take({ 'f.mbox': sent('later', 'jo@quay.example', '2026-02-09').replace(/Message-ID: <[^>]*>/i, `Message-ID: <${about}>`) });
  expect(await people()).not.toContain('jo@quay.example');
  await take({ 'g.mbox': sent('full', 'kim@quay.example', '2026-02-11') });
  await take({ 'h.mbox': report('b3', 'kim@quay.example', await idOf('About full'), 'Wed, 11 Feb 2026 08:00:00 +0000', '5.2.2') });
  expect(await people()).toContain('kim@quay.example');
});

test('a report about an email that we never sent, or sent to others, takes nothing back', async () => {
  await take({ 'i.mbox': sent('real', 'lea@pier.example', '2026-02-12') });
  const other = await idOf('About full');
  await take({
    'j.mbox': report('b4', 'lea@pier.example', 'invented@quillmere.example', 'Thu, 12 Feb 2026 08:00:00 +0000'),
    'k.mbox': report('b5', 'lea@pier.example', other, 'Thu, 12 Feb 2026 09:00:00 +0000'),
  });
  expect(await people()).toContain('lea@pier.example');
});

test('a record that someone changed stays, and so does one created by hand', async () => {
  await take({ 'l.mbox': sent('touched', 'ned@slip.example', '2026-02-13') });
  const [ned] = await owner(server.ownerUrl, `SELECT person_id AS id FROM person_addresses WHERE address = 'ned@slip.example'`);
  await server.call(routeTo('editRecord', { kind: 'contact', id: ned?.id }), {
    token: crew.tokens.rep,
    body: { values: { title: 'Pilot' } },
  });
  await take({ 'm.mbox': report('b6', 'ned@slip.example', await idOf('About touched'), 'Fri, 13 Feb 2026 08:00:00 +0000') });
  expect(await people()).toContain('ned@slip.example');
  expect(await accounts()).toContain('slip.example');
});

test('an erased address leaves no trace in the failures', async () => {
  const count = async () => (await owner(server.ownerUrl, 'SELECT count(*)::int AS n FROM delivery_failures'))[0]?.n;
  const before = Number(await count());
  await server.call(routeTo('erasePerson'), {
    token: crew.tokens.admin,
    body: { addresses: ['jo@quay.example'], way: 'erase', confirm: 'jo@quay.example' },
  });
  expect(before - Number(await count())).toBe(1);
});
