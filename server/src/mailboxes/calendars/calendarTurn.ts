import type { CalendarFailureCode } from '@fulvet/core';
import { and, eq, inArray, sql } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import { z } from 'zod';
import { calendarBusy, calendarObjects } from '../../base/db/schema';
import { rowsOf } from '../../base/db/rows';
import type { EventsRequest } from '../../base/reading/readTasks';
import { ReadingGivenUp } from '../../base/reading/readerPool';
import type { Services } from '../../base/services';
import { WokenLoop } from '../../base/wokenLoop';
import { runDecisions } from '../../decision/decideRun';
import { loadReaders } from '../../emails/owners';
import { announceMailbox, noteEvent } from '../mailboxLog';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { CalendarFailure } from './calendarFailure';
import type { CalendarPlace, ReadObject } from './calendarPlace';
import type { FetchedObject, ListedObject } from './calendarServer';
import { CalendarServer, fetchCalendarFile } from './calendarServer';
import { calendarTargetOf, openedAddress } from './calendarSecret';
import { withdraw } from './noteObjects';
import { syncTasks } from './syncTasks';
import { storeEvents } from './storeEvents';

export const CALENDAR_QUEUE = 'calendars';

const AT_ONCE = 2;
const LEASE_MINUTES = 15;
/** A server is asked what changed; a file has to be fetched. */
const PAUSE_MINUTES = { caldav: 5, tasks: 5, subscribed: 60 } as const;
const AFTER_FAILURE_MINUTES: Partial<Record<CalendarFailureCode, number>> = {
  'sign-in-refused': 24 * 60,
  'not-secure': 24 * 60,
  throttled: 60,
  'not-followed': 24 * 60,
  'most-gone': 60,
};
const AFTER_OTHERS_MINUTES = 15;
const DAY_MS = 86_400_000;
/** So far back events are read where the mailbox is read for ever, and so far ahead. */
const LONGEST_BACK_DAYS = 3 * 365;
const AHEAD_DAYS = 92;
/** What recurs is read again after this: what of it is near has changed. */
const RECURRING_HOURS = 20;
const OBJECTS_TOGETHER = 25;
const EVENTS_TOGETHER = 300;

const calendarRow = z.object({
  id: z.number(),
  mailbox_id: z.number(),
  kind: z.enum(['caldav', 'subscribed', 'tasks']),
  url: z.string(),
  sealed: z.string().nullable(),
  name: z.string(),
  etag: z.string(),
  address: z.string(),
  aliases: z.array(z.string()),
  owner: z.string(),
  read_since: z.number().nullable(),
});
/** Whoever asks for it meanwhile has it read once more. */
const takenRow = z.object({ id: z.number(), begun: z.string() });

type DueCalendar = z.infer<typeof calendarRow>;

/** Reads the calendars that are due, as one of any number of processes. */
export class CalendarReader {
  private readonly loop: WokenLoop;

  constructor(private readonly services: Services) {
    this.loop = new WokenLoop(services, {
      name: 'calendars',
      queue: CALENDAR_QUEUE,
      atOnce: AT_ONCE,
      next: () => this.takeNext(),
      secondsToNext: () => this.secondsToNext(),
    });
  }

  start(): void {
    this.loop.start();
  }

  stop(): Promise<void> {
    return this.loop.stop();
  }

  private async secondsToNext(): Promise<number | null> {
    const rows = await rowsOf(
      this.services.database.worker,
      z.object({ seconds: z.number().nullable() }),
      sql`SELECT extract(epoch FROM min(greatest(c.next_at, coalesce(c.lease_until, c.next_at))) - now())::float8 AS seconds FROM calendars c JOIN mailboxes m ON m.id = c.mailbox_id WHERE c.followed AND m.state <> 'paused'`,
    );
    return rows[0]?.seconds ?? null;
  }

  /** @returns whether there was one */
  private async takeNext(): Promise<boolean> {
    const db = this.services.database.worker;
    const [taken] = await rowsOf(
      db,
      takenRow,
      sql`UPDATE calendars SET lease_until = now() + make_interval(secs => ${LEASE_MINUTES * 60}) WHERE id = (
        SELECT c.id FROM calendars c JOIN mailboxes m ON m.id = c.mailbox_id
        WHERE c.followed AND c.next_at <= now() AND (c.lease_until IS NULL OR c.lease_until < now()) AND m.state <> 'paused' ORDER BY c.next_at LIMIT 1 FOR UPDATE OF c SKIP LOCKED) RETURNING id, now()::text AS begun`,
    );
    if (!taken) return false;
    const [calendar] = await rowsOf(
      db,
      calendarRow,
      sql`SELECT c.id, c.mailbox_id, c.kind, c.url, c.sealed, c.name, c.etag, m.address, m.aliases, u.name AS owner, (extract(epoch FROM m.read_since) * 1000)::float8 AS read_since
        FROM calendars c JOIN mailboxes m ON m.id = c.mailbox_id JOIN users u ON u.id = m.owner_id WHERE c.id = ${taken.id}`,
    );
    if (!calendar) return true;
    const { problem, minutes } = await this.read(calendar);
    await db.execute(sql`UPDATE calendars SET lease_until = NULL, next_at = CASE WHEN next_at > ${taken.begun}::timestamptz THEN next_at ELSE now() + make_interval(secs => ${minutes * 60}) END, read_at = CASE WHEN ${problem === null} THEN now() ELSE read_at END,
      problem = CASE WHEN ${problem === null} THEN NULL ELSE jsonb_build_object('code', ${problem?.code ?? ''}::text, 'said', ${problem?.said ?? ''}::text, 'since', coalesce(problem ->> 'since', ${new Date().toISOString()}::text)) END
      WHERE id = ${calendar.id}`);
    await announceMailbox(db, calendar.mailbox_id);
    return true;
  }

  private async read(calendar: DueCalendar): Promise<{ problem: CalendarFailure | null; minutes: number }> {
    try {
      await (calendar.kind === 'tasks' ? syncTasks(this.services, calendar) : readCalendar(this.services, calendar));
      return { problem: null, minutes: PAUSE_MINUTES[calendar.kind] };
    } catch (error) {
      if (error instanceof CalendarFailure) return { problem: error, minutes: AFTER_FAILURE_MINUTES[error.code] ?? AFTER_OTHERS_MINUTES };
      this.services.log.error({ err: error, calendar: calendar.id }, 'a calendar is read again later');
      return { problem: new CalendarFailure('no-answer'), minutes: AFTER_OTHERS_MINUTES };
    }
  }
}

/** What changed in a calendar comes in, and is decided. */
async function readCalendar(services: Services, calendar: DueCalendar): Promise<void> {
  const { database, blobs } = services;
  const db = database.worker;
  const known = await knownObjects(services, calendar.id);
  const now = Date.now();
  const window = { from: Math.max(calendar.read_since ?? 0, now - LONGEST_BACK_DAYS * DAY_MS), to: now + AHEAD_DAYS * DAY_MS };
  const source = await (calendar.kind === 'caldav' ? serverSource(services, calendar, window) : fileSource(services, calendar, known));
  const changed = source.listed.filter(({ href, etag }) => known.get(href)?.etag !== etag || known.get(href)?.stale === true);
  const { compiled: rulebook } = await liveRulebook(database);
  const place: CalendarPlace = {
    calendarId: calendar.id,
    mailboxId: calendar.mailbox_id,
    folder: `Calendar: ${calendar.name}`,
    addresses: [calendar.address, ...calendar.aliases],
    readers: await loadReaders(db, calendar.mailbox_id),
    rulebook,
  };
  const owner = { address: calendar.address, name: calendar.owner };
  for (let at = 0; at < changed.length; at += OBJECTS_TOGETHER) {
    const fetched = await source.fetch(changed.slice(at, at + OBJECTS_TOGETHER).map(({ href }) => href));
    const read = await Promise.all(
      fetched.map((object) => readObject(services, calendar, object, { window, owner, addresses: place.addresses })),
    );
    for (const few of fewAtOnce(read.filter((object) => object !== null))) await storeEvents(db, blobs, place, few);
    await passOver(
      services,
      calendar,
      fetched.filter((_, at) => read[at] === null),
    );
    await db.execute(
      sql`UPDATE calendars SET lease_until = now() + make_interval(secs => ${LEASE_MINUTES * 60}) WHERE id = ${calendar.id}`,
    );
  }
  const listed = new Set(source.listed.map(({ href }) => href));
  const gone = [...known.keys()].filter((href) => !listed.has(href));
  if (gone.length > 0)
    await database.work(async (tx) => {
      await withdraw(tx, calendar.id, gone, []);
      for (const table of [calendarObjects, calendarBusy])
        await tx.delete(table).where(and(eq(table.calendarId, calendar.id), inArray(table.href, gone)));
    });
  if (source.etag !== undefined) await db.execute(sql`UPDATE calendars SET etag = ${source.etag} WHERE id = ${calendar.id}`);
  if (changed.length > 0) await runDecisions(database, blobs, 'undecided');
}

/** Objects in groups that are stored in one transaction: other mail waits for it. */
function fewAtOnce(objects: readonly ReadObject[]): ReadObject[][] {
  const groups: ReadObject[][] = [];
  let events = EVENTS_TOGETHER;
  for (const object of objects) {
    const last = groups.at(-1);
    if (last && events + object.events.length <= EVENTS_TOGETHER) last.push(object);
    else {
      groups.push([object]);
      events = 0;
    }
    events += object.events.length;
  }
  return groups;
}

const objectRow = z.object({ href: z.string(), etag: z.string(), stale: z.boolean() });
type KnownObjects = ReadonlyMap<string, z.infer<typeof objectRow>>;

async function knownObjects({ database }: Services, calendarId: number): Promise<KnownObjects> {
  const rows = await rowsOf(
    database.worker,
    objectRow,
    sql`SELECT href, etag, recurs AND read_at < now() - make_interval(secs => ${RECURRING_HOURS * 3600}) AS stale FROM calendar_objects WHERE calendar_id = ${calendarId}`,
  );
  return new Map(rows.map((row) => [row.href, row]));
}

/** What a calendar holds now, and how to get it. */
interface CalendarSource {
  listed: readonly ListedObject[];
  fetch: (hrefs: readonly string[]) => Promise<FetchedObject[]>;
  /** By what the answer is known again. */
  etag?: string;
}

async function serverSource(services: Services, calendar: DueCalendar, window: { from: number; to: number }): Promise<CalendarSource> {
  const server = new CalendarServer(services.network, await calendarTargetOf(services, calendar.mailbox_id));
  return { listed: await server.list(calendar.url, window), fetch: (hrefs) => server.fetchObjects(calendar.url, hrefs) };
}

/** A file is fetched whole; each event in it is known by its UID and a digest. */
async function fileSource(services: Services, calendar: DueCalendar, known: KnownObjects): Promise<CalendarSource> {
  // What recurs is read again from the file, so that it has to come whole once a day.
  const etag = [...known.values()].some(({ stale }) => stale) ? '' : calendar.etag;
  const file = await fetchCalendarFile(services.network, openedAddress(services, calendar), etag);
  if (!file) return { listed: [...known.values()], fetch: () => Promise.resolve([]) };
  const objects = await services.blobs.readers.read('calendarFile', file.text).catch((error: unknown) => {
    throw error instanceof ReadingGivenUp ? new CalendarFailure('too-large', error.message) : error;
  });
  if (objects === null) throw new CalendarFailure('not-a-calendar');
  const byHref = new Map(
    objects.map(({ uid, text }) => [uid, { href: uid, etag: createHash('sha256').update(text).digest('hex'), text }] as const),
  );
  return {
    listed: [...byHref.values()],
    fetch: (hrefs) => Promise.resolve(hrefs.flatMap((href) => byHref.get(href) ?? [])),
    etag: file.etag,
  };
}

/** Objects that cannot be read are not fetched again before they change. */
async function passOver({ database }: Services, { id }: DueCalendar, objects: readonly ListedObject[]): Promise<void> {
  if (objects.length === 0) return;
  const rows = objects.map(({ href, etag }) => ({ href, etag }));
  await database.worker.execute(sql`INSERT INTO calendar_objects (calendar_id, href, etag, recurs)
    SELECT ${id}::bigint, href, etag, false FROM json_to_recordset(${JSON.stringify(rows)}::json) AS o(href text, etag text)
    ON CONFLICT (calendar_id, href) DO UPDATE SET etag = excluded.etag, recurs = false, read_at = now()`);
}

/** @returns null for an object that exceeds the limits of reading; what is stored of it stays */
async function readObject(
  { blobs, database }: Services,
  calendar: DueCalendar,
  { href, etag, text }: FetchedObject,
  around: Omit<EventsRequest, 'text' | 'arrivedAt'>,
): Promise<ReadObject | null> {
  try {
    return { href, etag, ...(await blobs.readers.read('events', { text, ...around, arrivedAt: Date.now() })) };
  } catch (error) {
    if (!(error instanceof ReadingGivenUp)) throw error;
    await noteEvent(
      database.worker,
      calendar.mailbox_id,
      'problem',
      `An event of the calendar “${calendar.name}” is left out. ${error.message}`,
    );
    return null;
  }
}
