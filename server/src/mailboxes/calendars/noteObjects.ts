import { sql } from 'drizzle-orm';
import type { BlobPlace } from '../../base/blobs/blobStore';
import type { Tx } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import { resetReadersOf } from '../../emails/owners';
import { eraseSources } from '../../emails/store/eraseSources';
import type { CalendarPlace, ReadObject } from './calendarPlace';
import { alone } from './changedEvents';

/**
 * Notes what the objects are now. What they no longer hold, and was still to come, does not take place.
 *
 * @returns where the sources lie that are to be overwritten
 */
export async function noteObjects(
  tx: Tx,
  { calendarId }: CalendarPlace,
  objects: readonly ReadObject[],
  events: readonly { href: string; identity: string; id: number }[],
): Promise<BlobPlace[]> {
  const rows = objects.map(({ href, etag, recurs }) => ({ href, etag, recurs }));
  await tx.execute(sql`INSERT INTO calendar_objects (calendar_id, href, etag, recurs)
    SELECT ${calendarId}::bigint, href, etag, recurs FROM json_to_recordset(${JSON.stringify(rows)}::json) AS o(href text, etag text, recurs boolean)
    ON CONFLICT (calendar_id, href) DO UPDATE SET etag = excluded.etag, recurs = excluded.recurs, read_at = now()`);
  await tx.execute(sql`INSERT INTO calendar_events (calendar_id, href, identity, email_id)
    SELECT ${calendarId}::bigint, href, identity, id FROM json_to_recordset(${JSON.stringify(events)}::json) AS n(href text, identity text, id bigint)
    ON CONFLICT (calendar_id, href, identity) DO UPDATE SET email_id = excluded.email_id`);
  await noteBusy(tx, calendarId, objects);
  const ids = events.map(({ id }) => id);
  const of = (isPrivate: boolean): string[] => objects.filter((object) => object.isPrivate === isPrivate).map(({ href }) => href);
  await withdraw(tx, calendarId, of(false), ids);
  return takeBack(tx, calendarId, of(true), ids);
}

/** Notes when the owner of a calendar is taken from now on. */
async function noteBusy(tx: Tx, calendarId: number, objects: readonly ReadObject[]): Promise<void> {
  const hrefs = objects.map(({ href }) => href);
  await tx.execute(
    sql`DELETE FROM calendar_busy WHERE calendar_id = ${calendarId} AND (href = ANY(${sql.param(hrefs)}::text[]) OR ends_at < now())`,
  );
  const rows = objects.flatMap(({ href, busy }) =>
    busy.map(({ from, to }, position) => ({ href, position, from: new Date(from).toISOString(), to: new Date(to).toISOString() })),
  );
  await tx.execute(sql`INSERT INTO calendar_busy (calendar_id, href, position, starts_at, ends_at)
    SELECT ${calendarId}::bigint, href, position, "from", "to" FROM json_to_recordset(${JSON.stringify(rows)}::json) AS b(href text, position int, "from" timestamptz, "to" timestamptz)
    WHERE "to" >= now() ON CONFLICT DO NOTHING`);
}

/**
 * Events of these objects that the objects no longer hold. What was still to come, and stands in no other calendar, is cancelled; what is past stays as it is.
 *
 * @param except ids of the events that they hold
 */
export async function withdraw(tx: Tx, calendarId: number, hrefs: readonly string[], except: readonly number[]): Promise<void> {
  if (hrefs.length === 0) return;
  await tx.execute(sql`WITH gone AS (
      DELETE FROM calendar_events c USING meetings m WHERE c.calendar_id = ${calendarId} AND c.href = ANY(${sql.param([...hrefs])}::text[])
        AND c.email_id <> ALL(${sql.param([...except])}::bigint[]) AND m.email_id = c.email_id AND m.ends_at > now() RETURNING c.email_id)
    UPDATE meetings m SET cancelled = true FROM gone g
    WHERE m.email_id = g.email_id AND NOT EXISTS (SELECT FROM calendar_events o WHERE o.email_id = g.email_id AND o.calendar_id <> ${calendarId})`);
}

/**
 * Events that their owner made private are not here any longer; where others have them too, they are theirs alone.
 *
 * @returns where the sources lie that are to be overwritten
 */
async function takeBack(tx: Tx, calendarId: number, hrefs: readonly string[], except: readonly number[]): Promise<BlobPlace[]> {
  if (hrefs.length === 0) return [];
  const rows = await rowsOf(
    tx,
    idRow,
    sql`WITH gone AS (
        DELETE FROM calendar_events WHERE calendar_id = ${calendarId} AND href = ANY(${sql.param([...hrefs])}::text[])
          AND (email_id IS NULL OR email_id <> ALL(${sql.param([...except])}::bigint[])) RETURNING email_id)
      SELECT email_id AS id FROM gone WHERE email_id IS NOT NULL`,
  );
  const ids = rows.map(({ id }) => id);
  if (ids.length === 0) return [];
  await tx.execute(
    sql`DELETE FROM sightings s USING calendars c WHERE c.id = ${calendarId} AND s.mailbox_id = c.mailbox_id AND s.email_id = ANY(${sql.param(ids)}::bigint[])`,
  );
  const unseen = await rowsOf(
    tx,
    idRow,
    sql`SELECT e.id FROM emails e WHERE e.id = ANY(${sql.param(ids)}::bigint[]) AND NOT EXISTS (SELECT FROM sightings s WHERE s.email_id = e.id)`,
  );
  const outdated = await eraseSources(
    tx,
    await alone(
      tx,
      unseen.map(({ id }) => id),
    ),
  );
  await tx.execute(sql`DELETE FROM emails WHERE id = ANY(${sql.param(unseen.map(({ id }) => id))}::bigint[])`);
  await resetReadersOf(tx, ids);
  return outdated;
}
