import type { User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { z } from 'zod';
import type { Tx } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import { announce } from '../../base/live/changes';
import type { Refusal } from '../../base/refusal';
import { notFound } from '../../base/refusal';
import type { Services } from '../../base/services';
import { tokenHash } from '../documents/links';
import { OUTGOING_QUEUE } from '../sending';
import type { BookedMeeting, FoundLink } from './foundLink';
import { bookingById, linkFor } from './foundLink';
import { invite, whoInvites } from './invite';
import { freeTimesOf } from './queries';

/** What a guest asks for. */
export interface Wish {
  /** Milliseconds. */
  at: number;
  name: string;
  address: string;
  note: string;
  zone: string;
}

/** What became of it. */
export type Booked = { is: 'booked'; booking: BookedMeeting } | { is: 'taken' | 'ended' | 'unknown' | 'too often' };

/** What is sent through one link, in all: a guest who changes their mind, and no robot. */
const MOST_TRIES = 30;
const LOCK = 460_300;

/**
 * Books a time, or moves what was booked to it, in one transaction: however many ask at once, a time is given once. The invitation is under way with it.
 */
export async function book(services: Services, token: string, wish: Wish): Promise<Booked> {
  const { database } = services;
  const booked = await database.work(async (tx): Promise<Booked> => {
    // From here on the link is this transaction's: what it was booked for does not change meanwhile.
    const counted = await countTry(tx, token);
    if (counted !== 'counted') return { is: counted };
    const link = await linkFor(tx, token);
    if (!link) return { is: 'unknown' };
    if (link.hasEnded || !link.kind) return { is: 'ended' };
    const { kind, booking: before } = link;
    // Asked for twice, as by a second click: it is booked already, and no one is invited again.
    if (before?.state === 'booked' && before.from === wish.at) return { is: 'booked', booking: before };
    // Members are taken one after the other, in one order, so that no two guests wait for each other.
    for (const id of kind.members.map((member) => member.id).sort((first, second) => first - second))
      await tx.execute(sql`SELECT pg_advisory_xact_lock(${LOCK}, ${id}::int)`);
    const free = (await freeTimesOf(tx, kind, before?.id ?? null)).find(({ at }) => at === wish.at);
    if (!free) return { is: 'taken' };
    const hosts = await whoInvites(tx, free.memberIds);
    if (hosts.length === 0) return { is: 'ended' };
    const members = kind.needs === 'all' ? free.memberIds : [await inTurn(tx, hosts, before)];
    const inviting = hosts.filter((id) => members.includes(id));
    const hostId = inviting.includes(link.makerId) ? link.makerId : (inviting[0] ?? link.makerId);
    const [from, to] = [new Date(wish.at), new Date(wish.at + kind.times.minutes * 60_000)];
    if (before && isForOthers(before, hostId, members)) await invite(tx, link, before, 'CANCEL');
    const rows = await rowsOf(
      tx,
      bookedRow,
      sql`INSERT INTO bookings AS b (link_id, kind_id, uid, host_id, member_ids, guest_address, guest_name, note, zone, starts_at, ends_at)
        VALUES (${link.id}, ${kind.id}, ${uidFor()}, ${hostId}, ${sql.param(members)}::bigint[], ${wish.address}, ${wish.name}, ${wish.note}, ${wish.zone}, ${from}, ${to})
        ON CONFLICT (link_id) DO UPDATE SET uid = CASE WHEN b.host_id = excluded.host_id AND b.state = 'booked' THEN b.uid ELSE excluded.uid END,
          sequence = b.sequence + 1, host_id = excluded.host_id, member_ids = excluded.member_ids, starts_at = excluded.starts_at, ends_at = excluded.ends_at, zone = excluded.zone, state = 'booked', changed_at = now()
        RETURNING id`,
    );
    const booking = await bookingById(tx, rows[0]?.id ?? 0);
    if (!booking) return { is: 'unknown' };
    await invite(tx, link, booking, 'REQUEST', before?.state === 'booked');
    return { is: 'booked', booking };
  });
  if (booked.is === 'booked') await announce(database.worker, { kind: 'work', queue: OUTGOING_QUEUE });
  return booked;
}

const bookedRow = z.object({ id: z.number() });

const uidFor = (): string => `${randomUUID()}@booking`;

/** Counted in the very row, so that many at once are counted one after the other. */
async function countTry(tx: Tx, token: string): Promise<'counted' | 'unknown' | 'too often'> {
  const [row] = await rowsOf(
    tx,
    triesRow,
    sql`UPDATE booking_links SET tries = tries + 1 WHERE token_hash = ${tokenHash(token)} RETURNING tries`,
  );
  if (!row) return 'unknown';
  return row.tries > MOST_TRIES ? 'too often' : 'counted';
}

const triesRow = z.object({ tries: z.number() });

/** Whether others than before take part: those get a cancellation, and the new ones an invitation of their own. */
const isForOthers = (before: BookedMeeting, hostId: number, members: readonly number[]): boolean =>
  before.state === 'booked' && (before.hostId !== hostId || before.memberIds.some((id) => !members.includes(id)));

const turnRow = z.object({ id: z.number() });

/** Of those who are free, who had it already, else who was booked least lately. */
async function inTurn(tx: Tx, memberIds: readonly number[], before: BookedMeeting | null): Promise<number> {
  const stays = before?.memberIds.find((id) => memberIds.includes(id));
  if (stays !== undefined) return stays;
  const [row] = await rowsOf(
    tx,
    turnRow,
    sql`SELECT n.id FROM unnest(${sql.param([...memberIds])}::bigint[]) WITH ORDINALITY n(id, place) ORDER BY (SELECT max(b.created_at) FROM bookings b WHERE b.host_id = n.id) NULLS FIRST, n.place LIMIT 1`,
  );
  return row?.id ?? memberIds[0] ?? 0;
}

/** Cancels what a guest booked, for the guest. */
export async function cancelByGuest(services: Services, token: string): Promise<boolean> {
  const { database } = services;
  const done = await database.work(async (tx) => {
    if ((await countTry(tx, token)) !== 'counted') return false;
    const link = await linkFor(tx, token);
    if (!link?.booking || link.booking.state !== 'booked') return false;
    return cancel(tx, link, link.booking);
  });
  if (done) await announce(database.worker, { kind: 'work', queue: OUTGOING_QUEUE });
  return done;
}

/** The same for a member who takes part. */
export async function cancelByMember(services: Services, user: User, id: number): Promise<Refusal | null> {
  const { database } = services;
  const refused = await database.work(async (tx) => {
    const booking = await bookingById(tx, id);
    const isTheirs = booking && (booking.memberIds.includes(user.id) || booking.hostId === user.id || user.role === 'admin');
    const link = booking && isTheirs ? await linkFor(tx, null, booking.linkId) : null;
    if (!link?.booking) return notFound('booking');
    if (link.booking.state === 'booked') await cancel(tx, link, link.booking);
    return null;
  });
  if (!refused) await announce(database.worker, { kind: 'work', queue: OUTGOING_QUEUE });
  return refused;
}

async function cancel(tx: Tx, link: FoundLink, booking: BookedMeeting): Promise<boolean> {
  const { rowCount } = await tx.execute(
    sql`UPDATE bookings SET state = 'cancelled', sequence = sequence + 1, changed_at = now() WHERE id = ${booking.id} AND state = 'booked'`,
  );
  if (rowCount !== 1) return false;
  await invite(tx, link, { ...booking, sequence: booking.sequence + 1 }, 'CANCEL');
  return true;
}
