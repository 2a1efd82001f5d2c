import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { User } from '@fulvet/contract';
import { withoutBcc } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { writeReading } from '../base/audit';
import type { Services } from '../base/services';

const emailRow = z.object({ pack: z.string(), position: z.number(), length: z.number(), size: z.number(), holds_bcc: z.boolean() });

/** The raw source, where the user may read the email; who got a blind copy is in it for those alone whose own copy names them. */
export async function sourceOf(services: Services, reader: User, emailId: number, how: string): Promise<Uint8Array | Refusal> {
  const place = await services.database.as(reader.id, async (tx) => {
    const rows = await rowsOf(
      tx,
      emailRow,
      sql`SELECT b.pack, b.position, b.length, b.size, fulvet_holds_bcc(e.id) AS holds_bcc FROM emails e JOIN email_contents c ON c.email_id = e.id JOIN blobs b ON b.sha256 = e.blob WHERE e.id = ${emailId}`,
    );
    if (rows[0]) await writeReading(tx, reader, emailId, how);
    return rows[0];
  });
  if (!place) return notFound('email');
  const source = await services.blobs.get(place);
  return place.holds_bcc ? source : withoutBcc(source);
}
