import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { RecipientClock, User } from '@fulvet/contract';
import { clockOf, headerValue, readHeaders } from '@fulvet/core';
import { moment, rowsOf } from '../base/db/rows';
import type { Refusal } from '../base/refusal';
import { notFound } from '../base/refusal';
import type { Services } from '../base/services';
import { outgoingOf } from './queries';

/** Of a larger email nothing is unpacked for its date alone. */
const MOST_BYTES = 512 * 1024;
/** So many of their last emails are looked at: some are sent by servers, which live by UTC. */
const LOOKED_AT = 5;

const emailRow = z.object({
  pack: z.string(),
  position: z.number(),
  length: z.number(),
  size: z.number(),
  sent_at: moment,
  name: z.string(),
});

/** By which clock the first recipient of a draft lives, as the last email that they wrote and the acting user may read says; null: not known. */
export async function recipientClock({ database, blobs }: Services, user: User, id: number): Promise<RecipientClock | null | Refusal> {
  const found = await database.as(user.id, async (tx) => {
    const draft = await outgoingOf(tx, id);
    if (!draft) return null;
    return rowsOf(
      tx,
      emailRow,
      sql`SELECT b.pack, b.position, b.length, b.size, e.sent_at, coalesce(nullif(p.name, ''), p.address) AS name FROM participants p JOIN emails e ON e.id = p.email_id JOIN email_contents c ON c.email_id = e.id JOIN blobs b ON b.sha256 = e.blob
        WHERE p.address = ${draft.to[0]?.address ?? ''} AND p.role = 'from' AND e.mail_class = 'person' AND b.size <= ${MOST_BYTES} ORDER BY e.sent_at DESC LIMIT ${LOOKED_AT}`,
    );
  });
  if (found === null) return notFound('email');
  for (const email of found) {
    const offsetMinutes = clockOf(headerValue(readHeaders(await blobs.get(email)).fields, 'date'));
    if (offsetMinutes !== null) return { offsetMinutes, at: email.sent_at, name: email.name };
  }
  return null;
}
