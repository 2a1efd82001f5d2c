import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { RecordKind } from '@fulvet/core';
import { recordKind } from '@fulvet/contract';
import type { Db, Tx } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import { tokenHash } from '../documents/links';
import type { KindRow } from './queries';
import { kindsWhere } from './queries';

/** What a guest booked. */
export interface BookedMeeting {
  id: number;
  linkId: number;
  uid: string;
  sequence: number;
  hostId: number;
  memberIds: number[];
  guest: { name: string; address: string };
  note: string;
  zone: string;
  /** Milliseconds. */
  from: number;
  to: number;
  state: 'booked' | 'cancelled';
}

/** A link as whoever follows it finds it. */
export interface FoundLink {
  id: number;
  /** As it was followed; null where a member acts on it. */
  token: string | null;
  makerId: number;
  record: { kind: RecordKind; id: number } | null;
  hasEnded: boolean;
  /** Null where it is offered no longer, or no member is there. */
  kind: KindRow | null;
  booking: BookedMeeting | null;
}

const linkRow = z.object({
  id: z.number(),
  kind_id: z.number(),
  maker_id: z.number(),
  record_kind: recordKind.nullable(),
  record_id: z.number().nullable(),
  has_ended: z.boolean(),
  booking_id: z.number().nullable(),
});

/** @param id of the link, where it is not found by its token */
export async function linkFor(db: Db | Tx, token: string | null, id: number | null = null): Promise<FoundLink | null> {
  const [row] = await rowsOf(
    db,
    linkRow,
    sql`SELECT l.id, l.kind_id, l.maker_id, l.kind AS record_kind, l.record_id, l.ends_at < now() OR NOT u.active AS has_ended, b.id AS booking_id
      FROM booking_links l JOIN users u ON u.id = l.maker_id LEFT JOIN bookings b ON b.link_id = l.id WHERE ${token === null ? sql`l.id = ${id}` : sql`l.token_hash = ${tokenHash(token)}`}`,
  );
  if (!row) return null;
  const [kind] = await kindsWhere(db, sql`k.id = ${row.kind_id} AND k.removed_at IS NULL`);
  return {
    id: row.id,
    token,
    makerId: row.maker_id,
    record: row.record_kind && row.record_id !== null ? { kind: row.record_kind, id: row.record_id } : null,
    hasEnded: row.has_ended,
    kind: kind && kind.members.length > 0 ? kind : null,
    booking: row.booking_id === null ? null : await bookingById(db, row.booking_id),
  };
}

const bookingRow = z.object({
  id: z.number(),
  link_id: z.number(),
  uid: z.string(),
  sequence: z.number(),
  host_id: z.number(),
  member_ids: z.array(z.number()),
  guest_name: z.string(),
  guest_address: z.string(),
  note: z.string(),
  zone: z.string(),
  from: z.number(),
  to: z.number(),
  state: z.enum(['booked', 'cancelled']),
});

export async function bookingById(db: Db | Tx, id: number): Promise<BookedMeeting | null> {
  const [row] = await rowsOf(
    db,
    bookingRow,
    sql`SELECT id, link_id, uid, sequence, host_id, member_ids, guest_name, guest_address, note, zone, state, (extract(epoch FROM starts_at) * 1000)::float8 AS "from", (extract(epoch FROM ends_at) * 1000)::float8 AS "to"
      FROM bookings WHERE id = ${id}`,
  );
  if (!row) return null;
  const { link_id: linkId, host_id: hostId, member_ids: memberIds, guest_name: name, guest_address: address, ...rest } = row;
  return { ...rest, linkId, hostId, memberIds, guest: { name, address } };
}
