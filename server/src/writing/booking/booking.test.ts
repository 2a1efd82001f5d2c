import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { MailStage } from '../../testing/mailboxTools';
import { connect, inStep, openMailStage, until } from '../../testing/mailboxTools';
import { ics } from '../../testing/calendarObjects';
import { routeTo } from '../../testing/routeTo';
import type { Answer, Crew } from '../../testing/testServer';
import { owner, setUpCrew } from '../../testing/testServer';

const REP = 'rep@quillmere.example';
const OTHER = 'other@quillmere.example';
let stage: MailStage;
let crew: Crew;
let kind: number;

const as = (who: keyof Crew['tokens'], target: Parameters<typeof stage.server.call>[0], body?: unknown): Promise<Answer> =>
  stage.server.call(target, { token: crew.tokens[who], ...(body === undefined ? {} : { body }) });

const content = (more: object = {}): object => ({
  name: 'Call of half an hour',
  about: 'We talk about your gauges.',
  place: 'Video call',
  minutes: 30,
  days: [1, 2, 3, 4, 5, 6, 7],
  from: '08:00',
  to: '18:00',
  zone: 'Europe/Berlin',
  noticeHours: 1,
  aheadDays: 5,
  memberIds: [crew.ids.rep],
  ...more,
});

async function link(more: object = {}, who: 'rep' | 'admin' = 'rep', of = kind): Promise<string> {
  const { status, text, json } = await as(who, routeTo('offerTimes', { id: of }), more);
  if (status !== 200) throw new Error(text);
  return json.url.replace('https://fulvet.quillmere.example', stage.server.url);
}

const page = async (url: string): Promise<{ status: number; text: string }> => {
  const response = await fetch(url);
  return { status: response.status, text: await response.text() };
};
/** The free times that a page offers, in minutes since 1970. */
async function timesOn(url: string): Promise<number[]> {
  const { text } = await page(`${url}?zone=UTC`);
  return [...text.matchAll(/at=(\d+)/g)].map(([, at]) => Number(at));
}
const post = (url: string, form: Record<string, string>): Promise<{ status: number; text: string }> =>
  fetch(url, { method: 'POST', body: new URLSearchParams(form) }).then(async (response) => ({
    status: response.status,
    text: await response.text(),
  }));
const guest = (at: number | undefined, more: Record<string, string> = {}): Record<string, string> => ({
  at: String(at),
  zone: 'America/New_York',
  name: 'Ida Brandt',
  address: 'ida@harbour.example',
  ...more,
});
const reached = (subject: string) => stage.mailhost.delivery.outside.filter((mail) => mail.subject === subject);
const booked = () => owner(stage.server.ownerUrl, `SELECT * FROM bookings WHERE state = 'booked' ORDER BY id`);

beforeAll(async () => {
  stage = await openMailStage();
  crew = await setUpCrew(stage.server);
  await as('admin', routeTo('setLinkAddress'), { address: 'https://fulvet.quillmere.example', unchecked: true });
  for (const [who, address] of [
    ['rep', REP],
    ['other', OTHER],
  ] as const) {
    const id = await connect(stage, { token: crew.tokens[who], address });
    await inStep(stage, crew.tokens[who], id);
    await owner(stage.server.ownerUrl, 'UPDATE mailboxes SET copies_agreed_at = now() WHERE id = $1', [id]);
  }
  kind = (await as('rep', routeTo('createMeetingKind'), content())).json.id;
}, 180_000);
afterAll(() => stage.close(), 180_000);

describe('a guest', () => {
  test('books a time; the invitation goes from the mailbox of the member, to both, and is filed', async () => {
    const url = await link();
    const [at] = await timesOn(url);
    const form = await page(`${url}?zone=America/New_York&at=${at}`);
    expect(form.text).toContain('America/New_York');
    const done = await post(url, guest(at, { note: 'About <b>the</b> gauge' }));
    expect(done.status).toBe(200);
    expect(done.text).toContain('Booked:');
    const [mail] = await until(
      () => Promise.resolve(reached('Call of half an hour: Ida Brandt')),
      (found) => found.length > 0,
    );
    expect(mail).toMatchObject({ to: 'ida@harbour.example' });
    expect(mail?.text).toContain('About <b>the</b> gauge');
    const [email] = await until(
      () =>
        owner(
          stage.server.ownerUrl,
          `SELECT e.id, e.outcome, m.starts_at, e.owner_ids FROM emails e JOIN meetings m ON m.email_id = e.id WHERE m.summary = 'Call of half an hour: Ida Brandt'`,
        ),
      (rows) => rows[0]?.outcome !== null && rows[0]?.outcome !== undefined,
    );
    expect((email?.starts_at as Date).getTime()).toBe((at ?? 0) * 60_000);
    const inbox = stage.mailhost.store.accounts.get(REP)?.folders.get('INBOX')?.messages ?? [];
    expect(inbox.some(({ raw }) => raw.includes('text/calendar') && raw.includes('REQUEST'))).toBe(true);
    expect((await as('rep', routeTo('listBookings'))).json.bookings).toHaveLength(1);
    expect((await as('other', routeTo('listBookings'))).json.bookings).toEqual([]);
    // The time is offered to no one else.
    expect(await timesOn(await link())).not.toContain(at);
  });

  test('moves and cancels by the same link; the others learn of it', async () => {
    const url = await link();
    const [first, , third] = await timesOn(url);
    await post(url, guest(first, { name: 'Jo Lund', address: 'jo@harbour.example' }));
    // Whoever has the link sees when, and moves it in the name of who booked.
    expect((await page(`${url}?zone=UTC`)).text).not.toContain('jo@harbour.example');
    const moved = await post(url, { at: String(third), zone: 'UTC', name: 'Mallory', address: 'mallory@evil.example' });
    expect(moved.text).toContain('Booked:');
    const [row] = await owner(stage.server.ownerUrl, `SELECT * FROM bookings WHERE guest_name = 'Jo Lund'`);
    expect(row).toMatchObject({ sequence: 1, guest_address: 'jo@harbour.example', state: 'booked' });
    await until(
      () => Promise.resolve(reached('Moved: Call of half an hour: Jo Lund')),
      (found) => found.length === 1,
    );
    await post(url, { cancel: '1' });
    await until(
      () => Promise.resolve(reached('Cancelled: Call of half an hour: Jo Lund')),
      (found) => found.length === 1,
    );
    expect(await timesOn(await link())).toContain(third);
    // Booked again, it is no meeting that was moved; a time that is gone is said to be gone.
    await post(url, { at: String(first), zone: 'UTC' });
    await until(
      () => Promise.resolve(reached('Call of half an hour: Jo Lund')),
      (found) => found.length === 2,
    );
    expect((await page(`${await link()}?zone=UTC&at=${first}`)).text).toContain('This time is taken by now.');
    await post(url, { cancel: '1' });
    expect(reached('Call of half an hour: Mallory')).toEqual([]);
    // What is cancelled stands nowhere among what is to come.
    await until(
      async () => (await as('rep', routeTo('getArrival'))).json.meetings as { summary: string }[],
      (meetings) => !meetings.some(({ summary }) => summary.includes('Jo Lund')),
    );
  });

  test('gets a time once, however many ask for it at once', async () => {
    const before = (await booked()).length;
    const urls = await Promise.all(Array.from({ length: 25 }, () => link()));
    const [at] = await timesOn(urls[0] ?? '');
    const asked = [...urls, ...urls].map((url, n) => post(url, guest(at, { name: `Guest ${n}`, address: `guest${n}@harbour.example` })));
    const answers = await Promise.all(asked);
    // The second click on the link that was first says so, too.
    expect(answers.filter(({ status }) => status === 200).length).toBeLessThanOrEqual(2);
    expect(new Set(answers.map(({ status }) => status))).toEqual(new Set([200, 409]));
    expect((await booked()).length).toBe(before + 1);
    const invited = await owner(stage.server.ownerUrl, `SELECT FROM outgoing WHERE subject LIKE 'Call of half an hour: Guest %'`);
    expect(invited).toHaveLength(1);
    const all = await booked();
    const spans = all
      .map((row) => [(row.starts_at as Date).getTime(), (row.ends_at as Date).getTime()])
      .sort(([one = 0], [two = 0]) => one - two);
    spans.forEach(([from], place) => expect(from).toBeGreaterThanOrEqual(spans[place - 1]?.[1] ?? 0));
  });

  test('is told what is wrong, and keeps what was written', async () => {
    const url = await link();
    const [at] = await timesOn(url);
    const bad = await post(url, guest(at, { name: '<script>alert(1)</script>', address: 'no address' }));
    expect(bad.status).toBe(422);
    expect(bad.text).toContain('Write your email address');
    expect(bad.text).not.toContain('<script>alert');
    expect((await post(url, guest(undefined))).status).toBe(422);
    expect((await post(url, guest(1))).status).toBe(409);
    for (const path of ['/m/x', `/m/${'a'.repeat(43)}`]) expect((await page(stage.server.url + path)).status).toBe(404);
  });

  test('who tries again and again is stopped; a link ends', async () => {
    const url = await link();
    const tries = await Promise.all(Array.from({ length: 40 }, () => post(url, guest(1))));
    expect(tries.filter(({ status }) => status === 429).length).toBe(10);
    const ended = await link();
    await owner(
      stage.server.ownerUrl,
      `UPDATE booking_links SET ends_at = now() - interval '1 minute' WHERE id = (SELECT max(id) FROM booking_links)`,
    );
    expect((await page(ended)).status).toBe(410);
    expect((await post(ended, guest(1))).status).toBe(410);
  });
});

describe('times', () => {
  test('are free by the calendar, private events included, and the page says nothing of them', async () => {
    const account = stage.mailhost.store.accounts.get(OTHER);
    if (!account) throw new Error('no account');
    const [{ id: box } = { id: 0 }] = await owner(stage.server.ownerUrl, 'SELECT id FROM mailboxes WHERE address = $1', [OTHER]);
    stage.mailhost.store.putEvent(
      account,
      'Work',
      'a.ics',
      ics({ uid: 'Secret dentist', day: 2, with: [], by: OTHER, lines: ['CLASS:PRIVATE'] }),
    );
    stage.mailhost.store.putEvent(
      account,
      'Work',
      'b.ics',
      ics({ uid: 'Free day', day: 3, with: [], by: OTHER, lines: ['TRANSP:TRANSPARENT'] }),
    );
    const found = await as('other', routeTo('connectCalendars', { id: box }), { url: stage.mailhost.webUrl });
    await as('other', routeTo('followCalendar', { id: found.json.calendars[0].id }), { followed: true });
    await until(
      () => owner(stage.server.ownerUrl, 'SELECT * FROM calendar_busy'),
      (rows) => rows.length === 1,
    );
    const own = (await as('other', routeTo('createMeetingKind'), content({ memberIds: [crew.ids.other], zone: 'UTC', breakMinutes: 0 })))
      .json;
    expect(own.members).toEqual([expect.objectContaining({ readsCalendar: true })]);
    const offered = await as('other', routeTo('offerTimes', { id: own.id }), { times: 3 });
    expect(offered.json.times).toHaveLength(3);
    const url = offered.json.url.replace('https://fulvet.quillmere.example', stage.server.url);
    const times = await timesOn(url);
    const day = (days: number, hour: number): number => (Math.floor(Date.now() / 86_400_000) + days) * 1440 + hour * 60;
    expect(times).toContain(day(2, 8));
    expect(times).not.toContain(day(2, 9));
    expect(times).toContain(day(2, 10));
    expect(times).toContain(day(3, 9));
    expect((await page(`${url}?zone=UTC`)).text).not.toContain('dentist');
    expect(JSON.stringify(await owner(stage.server.ownerUrl, 'SELECT * FROM calendar_busy'))).not.toContain('dentist');
  });

  test('of any of several members go by turns, and of all only when all are free', async () => {
    const memberIds = [crew.ids.rep, crew.ids.other];
    expect((await as('rep', routeTo('createMeetingKind'), content({ memberIds }))).json.error.code).toBe('others-time');
    const any = (await as('admin', routeTo('createMeetingKind'), content({ memberIds, needs: 'any', name: 'Either of us' }))).json.id;
    await owner(stage.server.ownerUrl, 'UPDATE meeting_kinds SET owner_id = $1 WHERE id = $2', [crew.ids.rep, any]);
    const hosts: number[] = [];
    for (let n = 0; n < 4; n += 1) {
      const url = await link({}, 'rep', any);
      const times = await timesOn(url);
      await post(url, guest(times.at(-1 - n * 3), { name: `Turn ${n}` }));
      hosts.push(Number((await owner(stage.server.ownerUrl, 'SELECT host_id FROM bookings ORDER BY id DESC LIMIT 1'))[0]?.host_id));
    }
    expect(hosts.filter((id) => id === crew.ids.rep)).toHaveLength(2);
    const all = (await as('admin', routeTo('createMeetingKind'), content({ memberIds, needs: 'all', name: 'Both of us', zone: 'UTC' })))
      .json.id;
    const both = await timesOn(await link({}, 'rep', all));
    const taken = await owner(
      stage.server.ownerUrl,
      `SELECT (extract(epoch FROM starts_at) / 60)::int AS at FROM bookings WHERE state = 'booked'`,
    );
    for (const { at } of taken) expect(both).not.toContain(at);
  });

  test('a member cancels; kinds that are removed offer none, and only their owner changes them', async () => {
    const [mine] = (await as('rep', routeTo('listBookings'))).json.bookings;
    expect((await as('manager', routeTo('cancelBooking', { id: mine.id }))).status).toBe(404);
    expect((await as('rep', routeTo('cancelBooking', { id: mine.id }))).status).toBe(200);
    await until(
      () => Promise.resolve(stage.mailhost.delivery.outside.filter(({ subject }) => subject.startsWith('Cancelled: '))),
      (found) => found.length >= 2,
    );
    const url = await link();
    expect((await as('other', routeTo('removeMeetingKind', { id: kind }), { removed: true })).status).toBe(404);
    expect((await as('rep', routeTo('removeMeetingKind', { id: kind }), { removed: true })).status).toBe(200);
    expect((await page(url)).status).toBe(410);
    expect((await as('rep', routeTo('offerTimes', { id: kind }), {})).status).toBe(404);
    await as('rep', routeTo('removeMeetingKind', { id: kind }), { removed: false });
    expect((await page(`${url}?zone=UTC`)).status).toBe(200);
    const stale = await as('rep', routeTo('saveMeetingKind', { id: kind }), { revision: 7, content: content() });
    expect(stale.json.error.code).toBe('changed-meanwhile');
  });
});
