import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { WrittenEvent } from '../../testing/calendarObjects';
import { ics, ORGANIZER, stamp } from '../../testing/calendarObjects';
import type { MailStage } from '../../testing/mailboxTools';
import { connect, MAIL_PASSWORD, openMailStage, until } from '../../testing/mailboxTools';
import { routeTo } from '../../testing/routeTo';
import type { Answer, Crew } from '../../testing/testServer';
import { owner, setUpCrew } from '../../testing/testServer';

const REP = ORGANIZER;
const OTHER = 'other@quillmere.example';
const DAY = 86_400_000;
let stage: MailStage;
let crew: Crew;
const boxes: Record<string, number> = {};
const calendars: Record<string, number> = {};

const as = (who: keyof Crew['tokens'], target: Parameters<typeof stage.server.call>[0], body?: unknown): Promise<Answer> =>
  stage.server.call(target, { token: crew.tokens[who], ...(body === undefined ? {} : { body }) });

function put(address: string, event: WrittenEvent | null, name = `${event?.uid ?? ''}.ics`): void {
  const account = stage.mailhost.store.accounts.get(address);
  if (!account) throw new Error(`no account ${address}`);
  stage.mailhost.store.putEvent(account, 'Work', name, event === null ? null : ics(event));
}

/** Reads a calendar to its end. */
async function read(address: string): Promise<void> {
  const id = calendars[address] ?? 0;
  const before = await owner(stage.server.ownerUrl, 'SELECT read_at FROM calendars WHERE id = $1', [id]);
  const asked = await as('admin', routeTo('readCalendar', { id }));
  if (asked.status !== 200) throw new Error(asked.text);
  await until(
    () => owner(stage.server.ownerUrl, 'SELECT read_at, lease_until, problem FROM calendars WHERE id = $1', [id]),
    ([row]) => row?.lease_until === null && Number(row.read_at) > Number(before[0]?.read_at ?? 0),
  );
}

interface Stored {
  id: number;
  summary: string;
  outcome: string;
  cancelled: boolean;
  starts_at: Date;
  owners: number;
  mail_class: string;
}
const stored = (summary: string): Promise<Stored[]> =>
  owner(
    stage.server.ownerUrl,
    `SELECT e.id, e.outcome, e.mail_class, m.summary, m.cancelled, m.starts_at, cardinality(e.owner_ids) AS owners FROM emails e JOIN meetings m ON m.email_id = e.id
     WHERE m.summary = $1 AND e.mail_class = 'event' ORDER BY m.starts_at, e.id`,
    [summary],
  ) as Promise<unknown> as Promise<Stored[]>;

const filedUnder = async (id: number): Promise<string[]> =>
  (await as('admin', routeTo('getEmail', { id }))).json.filings.map((filing: { name: string }) => filing.name).sort();

beforeAll(async () => {
  stage = await openMailStage();
  crew = await setUpCrew(stage.server);
  await as('admin', routeTo('importRecords', { kind: 'account' }), { text: 'name,domains\nHarbour Oriel,harbour.example\n' });
  await as('admin', routeTo('importRecords', { kind: 'contact' }), {
    text: 'name,emails,account\nIda Brandt,ida@harbour.example,Harbour Oriel\n',
  });
  for (const [who, address] of [
    ['rep', REP],
    ['other', OTHER],
  ] as const) {
    boxes[address] = await connect(stage, { token: crew.tokens[who], address });
    put(address, { uid: 'first', with: ['someone@quillmere.example'] });
    const found = await as(who, routeTo('connectCalendars', { id: boxes[address] }), { url: `${stage.mailhost.webUrl}/` });
    expect(found.text).toContain('Work');
    const [calendar] = found.json.calendars;
    calendars[address] = calendar.id;
    expect(calendar).toMatchObject({ name: 'Work', kind: 'caldav', followed: false, events: 0 });
    expect((await as(who, routeTo('followCalendar', { id: calendar.id }), { followed: true })).status).toBe(200);
  }
}, 180_000);
afterAll(() => stage.close(), 180_000);

describe('an event of a calendar', () => {
  test('is decided and filed like mail, and explains itself', async () => {
    put(REP, { uid: 'Gauge visit', lines: ['LOCATION:Outer gate', 'DESCRIPTION:Bring the spare float'] });
    await read(REP);
    const [event] = await stored('Gauge visit');
    expect(event).toMatchObject({ outcome: 'filed', owners: 1, cancelled: false });
    expect(await filedUnder(event?.id ?? 0)).toEqual(['Harbour Oriel', 'Ida Brandt']);
    const { json } = await as('rep', routeTo('getEmail', { id: event?.id ?? 0 }));
    expect(json).toMatchObject({ mailClass: 'event', direction: 'sent', content: { subject: 'Gauge visit' } });
    expect(JSON.stringify(json.content)).toContain('Bring the spare float');
    expect(json.docket.map((step: { step: string }) => step.step)).toEqual(expect.arrayContaining(['match', 'share']));
    const { json: home } = await as('rep', routeTo('getArrival'));
    expect(home.meetings.map((meeting: { summary: string }) => meeting.summary)).toContain('Gauge visit');
  });

  test('stays out where it is private, among ourselves, declined or cancelled', async () => {
    put(REP, { uid: 'Private one', lines: ['CLASS:PRIVATE'] });
    put(REP, { uid: 'Among us', with: [OTHER] });
    put(REP, { uid: 'Declined', by: 'ida@harbour.example', with: [], lines: [`ATTENDEE;PARTSTAT=DECLINED:mailto:${REP}`] });
    put(REP, { uid: 'Cancelled', lines: ['STATUS:CANCELLED'] });
    put(REP, { uid: 'Let in' });
    await read(REP);
    expect(await stored('Let in')).toHaveLength(1);
    for (const summary of ['Private one', 'Among us', 'Declined', 'Cancelled', 'first']) expect(await stored(summary)).toEqual([]);
  });

  test('is one in two calendars, and the copy of whoever invites says what it is', async () => {
    put(OTHER, { uid: 'Shared visit', with: ['ida@harbour.example', OTHER], day: 5 });
    await read(OTHER);
    put(REP, { uid: 'Shared visit', with: ['ida@harbour.example', OTHER], day: 6 });
    await read(REP);
    const [event, ...more] = await stored('Shared visit');
    expect(more).toEqual([]);
    expect(event?.owners).toBe(2);
    expect(event?.starts_at.toISOString().slice(0, 10)).toBe(new Date(Date.now() + 6 * DAY).toISOString().slice(0, 10));
    // A guest's copy that was changed by hand does not change it for others.
    put(OTHER, { uid: 'Shared visit', with: ['ida@harbour.example', OTHER], day: 9, lines: ['SEQUENCE:99'] });
    await read(OTHER);
    expect((await stored('Shared visit'))[0]?.starts_at).toEqual(event?.starts_at);
  });

  test('is not read by whoever writes its UID into a calendar of theirs', async () => {
    put(REP, { uid: 'Secret visit', lines: ['DESCRIPTION:Only for the two of us'] });
    await read(REP);
    const [secret] = await stored('Secret visit');
    expect((await as('rep', routeTo('repair'), { emails: [secret?.id], seal: true })).status).toBe(200);
    put(OTHER, { uid: 'Secret visit', with: [OTHER, 'ida@harbour.example'] });
    await read(OTHER);
    const all = await stored('Secret visit');
    expect(all.map(({ owners }) => owners)).toEqual([1, 1]);
    expect((await as('other', routeTo('getEmail', { id: secret?.id ?? 0 }))).text).not.toContain('Only for the two of us');
    expect((await as('other', routeTo('search', { text: '"only for the two"' }))).text).not.toContain('Secret visit');
  });

  test('changes as its calendar does: moved, cancelled, back again; what people did with it stays', async () => {
    put(REP, { uid: 'Moving', day: 4 });
    await read(REP);
    const [event] = await stored('Moving');
    const id = event?.id ?? 0;
    expect((await as('rep', routeTo('repair'), { emails: [id], takeOff: [{ kind: 'contact', id: await contactId() }] })).status).toBe(200);
    put(REP, { uid: 'Moving', day: 8, lines: ['SEQUENCE:1'] });
    await read(REP);
    const [moved, ...others] = await stored('Moving');
    expect(others).toEqual([]);
    expect(moved?.id).toBe(id);
    expect(moved?.starts_at.getTime()).toBe((event?.starts_at.getTime() ?? 0) + 4 * DAY);
    expect(await filedUnder(id)).toEqual(['Harbour Oriel']);
    const at = Date.parse((await as('rep', routeTo('getEmail', { id }))).json.at);
    expect(at).toBe(moved?.starts_at.getTime());
    put(REP, null, 'Moving.ics');
    await read(REP);
    expect(await stored('Moving')).toMatchObject([{ id, cancelled: true }]);
    put(REP, { uid: 'Moving', day: 8, lines: ['SEQUENCE:1'] });
    await read(REP);
    expect(await stored('Moving')).toMatchObject([{ id, cancelled: false, outcome: 'filed' }]);
  });

  test('that is past stays when its calendar lets it go; one that is made private goes', async () => {
    put(REP, { uid: 'Long ago', day: -20 });
    put(REP, { uid: 'Regretted', day: -2 });
    await read(REP);
    const [regretted] = await stored('Regretted');
    const [{ blob } = { blob: '' }] = await owner(stage.server.ownerUrl, 'SELECT blob FROM emails WHERE id = $1', [regretted?.id]);
    put(REP, null, 'Long ago.ics');
    put(REP, { uid: 'Regretted', day: -2, lines: ['CLASS:CONFIDENTIAL'] });
    await read(REP);
    expect(await stored('Long ago')).toMatchObject([{ cancelled: false, outcome: 'filed' }]);
    expect(await stored('Regretted')).toEqual([]);
    // A meeting that took place ends the quiet days.
    const quiet = async (days: number): Promise<string> => (await as('rep', routeTo('listRecords', { kind: 'contact', quiet: days }))).text;
    expect([(await quiet(10)).includes('Ida Brandt'), (await quiet(30)).includes('Ida Brandt')]).toEqual([true, false]);
    expect(await owner(stage.server.ownerUrl, 'SELECT FROM emails WHERE id = $1', [regretted?.id])).toEqual([]);
    expect(await owner(stage.server.ownerUrl, 'SELECT FROM blobs WHERE sha256 = $1', [blob])).toEqual([]);
  });

  test('that recurs comes as its occurrences, and each goes its own way', async () => {
    const override = [
      'BEGIN:VEVENT',
      'UID:Weekly',
      `RECURRENCE-ID:${stamp(8)}`,
      `DTSTART:${stamp(9, 14)}`,
      `DTEND:${stamp(9, 15)}`,
      'SUMMARY:Weekly',
      `ORGANIZER:mailto:${REP}`,
      'ATTENDEE:mailto:ida@harbour.example',
      'END:VEVENT',
    ];
    put(REP, { uid: 'Weekly', day: 1, lines: ['RRULE:FREQ=WEEKLY;COUNT=5', `EXDATE:${stamp(15)}`], more: override });
    await read(REP);
    const days = async (): Promise<number[]> =>
      (await stored('Weekly'))
        .filter(({ cancelled }) => !cancelled)
        .map(({ starts_at: at }) => Math.floor(at.getTime() / DAY) - Math.floor(Date.now() / DAY));
    expect(await days()).toEqual([1, 9, 22, 29]);
    put(REP, { uid: 'Weekly', day: 1, lines: ['RRULE:FREQ=WEEKLY;COUNT=4'] });
    await read(REP);
    expect(await days()).toEqual([1, 8, 15, 22]);
  });

  test('does not come in again after it was let go, nor names someone who is to stay forgotten', async () => {
    put(REP, { uid: 'Old cruise', day: -100, with: ['nadir@nowhere.example'] });
    await read(REP);
    const [event] = await owner(
      stage.server.ownerUrl,
      `DELETE FROM emails WHERE id = (SELECT email_id FROM meetings WHERE summary = 'Old cruise') RETURNING id`,
    );
    expect(event).toBeDefined();
    put(REP, { uid: 'Old cruise', day: -100, with: ['nadir@nowhere.example'], lines: ['SEQUENCE:2'] });
    await read(REP);
    expect(await stored('Old cruise')).toEqual([]);

    put(REP, { uid: 'With Kim', with: ['kim@reef.example', 'ida@harbour.example'] });
    await read(REP);
    const erased = await as('admin', routeTo('erasePerson'), {
      confirm: 'kim@reef.example',
      addresses: ['kim@reef.example'],
      way: 'erase',
    });
    expect(erased.status).toBe(200);
    put(REP, { uid: 'With Kim', day: 4, with: ['kim@reef.example', 'ida@harbour.example'], lines: ['SEQUENCE:1'] });
    await read(REP);
    expect(JSON.stringify(await owner(stage.server.ownerUrl, `SELECT * FROM participants WHERE address LIKE 'kim@%'`))).toBe('[]');
  });
});

const contactId = async (): Promise<number> =>
  Number((await owner(stage.server.ownerUrl, `SELECT id FROM contacts WHERE name = 'Ida Brandt'`))[0]?.id);

describe('calendars', () => {
  test('are for those who look after the mailbox', async () => {
    const id = calendars[REP] ?? 0;
    for (const target of [
      routeTo('readCalendar', { id }),
      routeTo('removeCalendar', { id }),
      routeTo('listCalendars', { id: boxes[REP] ?? 0 }),
    ])
      expect((await as('other', target)).status).toBe(404);
    expect((await as('viewer', routeTo('listCalendars', { id: boxes[REP] ?? 0 }))).status).toBe(403);
  });

  test('a wrong password, address or page is said in words, and nothing changes', async () => {
    const connectAt = (url: string, password = ''): Promise<Answer> =>
      as('rep', routeTo('connectCalendars', { id: boxes[REP] ?? 0 }), { url, password });
    expect((await connectAt(stage.mailhost.webUrl, 'wrong')).json.error).toMatchObject({ code: 'calendar-server' });
    expect((await connectAt(stage.mailhost.webUrl, 'wrong')).text).toContain('refused the sign-in');
    expect((await connectAt('http://127.0.0.1:1')).text).toContain('does not answer');
    expect((await connectAt('not an address')).status).toBe(422);
    const page = await as('rep', routeTo('subscribeCalendar', { id: boxes[REP] ?? 0 }), { url: stage.mailhost.webUrl, name: 'Page' });
    expect(page.text).toContain('is no calendar');
    expect((await as('rep', routeTo('listCalendars', { id: boxes[REP] ?? 0 }))).json.calendars).toHaveLength(1);
  });

  test('as files are read by their address, which is kept like a password', async () => {
    const account = stage.mailhost.store.accounts.get(OTHER);
    if (!account) throw new Error('no account');
    stage.mailhost.store.putEvent(account, 'Tours', 'tour.ics', ics({ uid: 'Harbour tour', by: OTHER, day: 7 }));
    const address = `${stage.mailhost.webUrl}${stage.mailhost.calendars.fileAddress(account, 'Tours')}`;
    const body = { url: address, name: 'Tours' };
    const subscribed = await as('other', routeTo('subscribeCalendar', { id: boxes[OTHER] ?? 0 }), body);
    expect(subscribed.text).not.toContain('key=');
    calendars.tours = subscribed.json.calendars.find((calendar: { name: string }) => calendar.name === 'Tours').id;
    await until(
      () => stored('Harbour tour'),
      (events) => events[0]?.outcome === 'filed',
    );
    expect((await as('other', routeTo('subscribeCalendar', { id: boxes[OTHER] ?? 0 }), body)).json.error.code).toBe('exists');
    expect(JSON.stringify(await owner(stage.server.ownerUrl, 'SELECT * FROM calendars'))).not.toContain('key=');
    stage.mailhost.store.putEvent(account, 'Tours', 'tour.ics', ics({ uid: 'Harbour tour', by: OTHER, day: 8, lines: ['SEQUENCE:1'] }));
    const [before] = await stored('Harbour tour');
    expect((await as('admin', routeTo('rotateMailKeys'))).status).toBe(200);
    await read('tours');
    expect((await stored('Harbour tour'))[0]?.starts_at.getTime()).toBe((before?.starts_at.getTime() ?? 0) + DAY);
    expect((await as('other', routeTo('removeCalendar', { id: calendars.tours ?? 0 }))).status).toBe(200);
    expect(await stored('Harbour tour')).toHaveLength(1);
  });

  test('that cannot be read say why and are read later; what came in stays', async () => {
    stage.mailhost.store.addAccount(REP, 'another password');
    await as('rep', routeTo('readCalendar', { id: calendars[REP] ?? 0 }));
    const { problem } = await until(
      async () => (await as('rep', routeTo('listCalendars', { id: boxes[REP] ?? 0 }))).json.calendars[0],
      (calendar) => calendar.problem !== null,
    );
    expect(problem).toMatchObject({ title: 'The calendar server refused the sign-in' });
    expect(await stored('Gauge visit')).toHaveLength(1);
    stage.mailhost.store.addAccount(REP, MAIL_PASSWORD);
    await read(REP);
    expect((await as('rep', routeTo('listCalendars', { id: boxes[REP] ?? 0 }))).json.calendars[0].problem).toBeNull();
  });

  test('are left with the mailbox', async () => {
    expect((await as('admin', routeTo('passOnMailbox', { id: boxes[OTHER] ?? 0 }), { ownerId: crew.ids.manager })).status).toBe(200);
    expect((await as('admin', routeTo('listCalendars', { id: boxes[OTHER] ?? 0 }))).json).toEqual({ account: null, calendars: [] });
  });
});
