import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { routeTo } from '../testing/routeTo';
import type { Crew, TestServer } from '../testing/testServer';
import { changeRulebook, importMail, mbox, setUpCrew, startTestServer } from '../testing/testServer';

const REP = 'rep@quillmere.example';
const DAY_MS = 86_400_000;
const from = Date.now();
let server: TestServer;
let crew: Crew;

interface Invitation {
  uid: string;
  inDays: number;
  sequence?: number;
  method?: 'REQUEST' | 'CANCEL';
  to?: string;
  sender?: string;
}

let written = 0;

/** An email with a calendar object, each sent a minute after the one before. */
function invitation({ uid, inDays, sequence = 0, method = 'REQUEST', to = REP, sender = 'ida@harbour.example' }: Invitation) {
  written += 1;
  const stamp = (at: number): string => `${new Date(at).toISOString().replace(/[-:]/g, '').slice(0, 15)}Z`;
  const startsAt = from + inDays * DAY_MS;
  return {
    id: `${uid}-${written}`,
    from: sender,
    to,
    subject: `Meeting ${uid}`,
    date: new Date(from - DAY_MS + written * 60_000).toUTCString(),
    headers: `MIME-Version: 1.0\nContent-Type: text/calendar; charset=utf-8; method=${method}`,
    text: [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      `METHOD:${method}`,
      'BEGIN:VEVENT',
      `UID:${uid}`,
      `SEQUENCE:${sequence}`,
      `DTSTART:${stamp(startsAt)}`,
      `DTEND:${stamp(startsAt + 3_600_000)}`,
      `SUMMARY:Visit ${uid}`,
      'LOCATION:Quay 4',
      'END:VEVENT',
      'END:VCALENDAR',
    ].join('\r\n'),
  };
}

beforeAll(async () => {
  server = await startTestServer();
  crew = await setUpCrew(server);
  await server.call(routeTo('importRecords', { kind: 'contact' }), {
    token: crew.tokens.admin,
    body: { text: 'name,emails\nIda Brandt,ida@harbour.example\n' },
  });
  await changeRulebook(server, crew.tokens.admin, (rulebook) => (rulebook.share.level = 'everyone'));
  await importMail(server, crew.tokens.admin, REP, {
    'rep.mbox': mbox([
      invitation({ uid: 'later', inDays: 5 }),
      invitation({ uid: 'sooner', inDays: 2 }),
      invitation({ uid: 'cancelled', inDays: 3 }),
      invitation({ uid: 'cancelled', inDays: 3, sequence: 1, method: 'CANCEL' }),
      invitation({ uid: 'moved', inDays: 4 }),
      invitation({ uid: 'moved', inDays: 40, sequence: 1 }),
      invitation({ uid: 'brought forward', inDays: 60 }),
      invitation({ uid: 'brought forward', inDays: 6, sequence: 1 }),
      invitation({ uid: 'past', inDays: -0.5 }),
      invitation({ uid: 'far', inDays: 30 }),
      invitation({ uid: 'unfiled', inDays: 1, sender: 'stranger@elsewhere.example' }),
    ]),
  });
}, 60_000);
afterAll(() => server.remove());

const meetings = async (token: string): Promise<{ summary: string; record: { name: string } | null; location: string }[]> =>
  (await server.call(routeTo('getArrival'), { token })).json.meetings;

test('the home page shows the meetings of the next two weeks as they stand after the last change, the next first', async () => {
  const shown = await meetings(crew.tokens.rep);
  expect(shown.map((meeting) => meeting.summary)).toEqual(['Visit sooner', 'Visit later', 'Visit brought forward']);
  expect(shown[0]).toMatchObject({ location: 'Quay 4', record: { name: 'Ida Brandt' } });
});

test('meetings of a colleague’s mailbox are theirs', async () => {
  expect(await meetings(crew.tokens.admin)).toEqual([]);
});
