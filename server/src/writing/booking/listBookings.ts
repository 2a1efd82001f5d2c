import type { Booking, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { moment, rowsOf } from '../../base/db/rows';
import type { Services } from '../../base/services';

const bookingRow = z.object({
  id: z.number(),
  name: z.string(),
  at: moment,
  until: moment,
  guest_name: z.string(),
  guest_address: z.string(),
  note: z.string(),
  members: z.array(z.string()),
});

const MOST = 200;

/** What guests booked with a member, from now on. */
export function listBookings({ database }: Pick<Services, 'database'>, user: User): Promise<Booking[]> {
  return database.as(user.id, async (tx) => {
    const rows = await rowsOf(
      tx,
      bookingRow,
      sql`SELECT b.id, k.name, b.starts_at AS at, b.ends_at AS until, b.guest_name, b.guest_address, b.note,
          ARRAY(SELECT u.name FROM users u WHERE u.id = ANY(b.member_ids) ORDER BY u.name) AS members
        FROM bookings b JOIN meeting_kinds k ON k.id = b.kind_id WHERE b.state = 'booked' AND b.ends_at > now() ORDER BY b.starts_at, b.id LIMIT ${MOST}`,
    );
    return rows.map(({ guest_name: name, guest_address: address, ...row }) => ({ ...row, guest: { name, address } }));
  });
}
