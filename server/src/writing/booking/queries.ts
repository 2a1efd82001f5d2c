import type { MeetingKind, MeetingKindContent, User } from '@fulvet/contract';
import type { FreeTime, OfferedTimes, Span } from '@fulvet/core';
import { freeTimes } from '@fulvet/core';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Db, Tx } from '../../base/db/database';
import { json, rowsOf } from '../../base/db/rows';

/** When a kind of meeting is offered, as it is stored: as its writer says it. */
export type KeptTimes = Pick<
  MeetingKindContent,
  'minutes' | 'days' | 'from' | 'to' | 'zone' | 'breakMinutes' | 'noticeHours' | 'aheadDays'
>;

const kindRow = z.object({
  id: z.number(),
  owner_id: z.number(),
  owner: z.string(),
  name: z.string(),
  about: z.string(),
  place: z.string(),
  times: json<KeptTimes>(),
  needs: z.enum(['all', 'any']),
  members: json<{ id: number; name: string; readsCalendar: boolean }[]>(),
  revision: z.number(),
});
export type KindRow = z.infer<typeof kindRow>;

/** Kinds of meeting with the members who are there. @param which a condition on `k` */
export function kindsWhere(db: Db | Tx, which: SQL): Promise<KindRow[]> {
  return rowsOf(
    db,
    kindRow,
    sql`SELECT k.id, k.owner_id, o.name AS owner, k.name, k.about, k.place, k.times, k.needs, k.revision,
      coalesce((SELECT json_agg(json_build_object('id', u.id, 'name', u.name, 'readsCalendar', EXISTS (SELECT FROM calendars c JOIN mailboxes m ON m.id = c.mailbox_id WHERE m.owner_id = u.id AND m.kind = 'person' AND c.followed)) ORDER BY array_position(k.member_ids, u.id))
        FROM users u WHERE u.id = ANY(k.member_ids) AND u.active), '[]'::json) AS members
      FROM meeting_kinds k JOIN users o ON o.id = k.owner_id WHERE ${which} ORDER BY lower(k.name), k.id`,
  );
}

export const mayChange = (user: User, { owner_id: ownerId }: Pick<KindRow, 'owner_id'>): boolean =>
  user.role === 'admin' || user.id === ownerId;

export function shownKind(user: User, { times, ...row }: KindRow): MeetingKind {
  const { id, name, about, place, needs, members, owner, revision } = row;
  return { id, name, about, place, ...times, needs, members, owner, canChange: mayChange(user, row), revision };
}

const minutesOf = (clock: string): number => Number(clock.slice(0, 2)) * 60 + Number(clock.slice(3));

export const offeredTimes = (times: KeptTimes): OfferedTimes => ({ ...times, from: minutesOf(times.from), to: minutesOf(times.to) });

const spanRow = z.object({ member_id: z.number(), from: z.number(), to: z.number() });

/** When members are taken from now on: by what stands in their calendars, and by what guests booked. @param except the booking that is being moved */
export async function takenBy(db: Db | Tx, memberIds: readonly number[], except: number | null): Promise<Map<number, Span[]>> {
  const those = sql`${sql.param([...memberIds])}::bigint[]`;
  const rows = await rowsOf(
    db,
    spanRow,
    sql`SELECT m.owner_id AS member_id, (extract(epoch FROM b.starts_at) * 1000)::float8 AS "from", (extract(epoch FROM b.ends_at) * 1000)::float8 AS "to"
        FROM calendar_busy b JOIN calendars c ON c.id = b.calendar_id AND c.followed JOIN mailboxes m ON m.id = c.mailbox_id AND m.kind = 'person'
        WHERE m.owner_id = ANY(${those}) AND b.ends_at > now() AND NOT EXISTS (SELECT FROM bookings k WHERE k.id = ${except} AND k.starts_at = b.starts_at AND k.ends_at = b.ends_at)
      UNION ALL SELECT n.id, (extract(epoch FROM k.starts_at) * 1000)::float8, (extract(epoch FROM k.ends_at) * 1000)::float8
        FROM bookings k JOIN unnest(${those}) n(id) ON n.id = ANY(k.member_ids) WHERE k.state = 'booked' AND k.ends_at > now() AND k.id IS DISTINCT FROM ${except}::bigint`,
  );
  const taken = new Map<number, Span[]>(memberIds.map((id) => [id, []]));
  for (const { member_id: id, from, to } of rows) taken.get(id)?.push({ from, to });
  return taken;
}

const holidaysRow = z.object({ holidays: json<{ day: string }[]>() });

/** The times of a kind that are still free, with the members who are free then. */
export async function freeTimesOf(
  db: Db | Tx,
  kind: KindRow,
  except: number | null = null,
): Promise<{ at: number; memberIds: number[] }[]> {
  const memberIds = kind.members.map(({ id }) => id);
  const taken = await takenBy(db, memberIds, except);
  const [row] = await rowsOf(db, holidaysRow, sql`SELECT automatic -> 'holidays' AS holidays FROM workspace`);
  const found: FreeTime[] = freeTimes(
    offeredTimes(kind.times),
    memberIds.map((id) => taken.get(id) ?? []),
    kind.needs,
    { now: Date.now(), holidays: new Set(row?.holidays.map(({ day }) => day)) },
  );
  return found.map(({ at, members }) => ({ at, memberIds: members.map((place) => memberIds[place] ?? 0) }));
}
