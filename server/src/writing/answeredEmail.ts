import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { PARTICIPANT_ROLES } from '@fulvet/core';
import type { Answered, Correspondent } from '@fulvet/core';
import type { Tx } from '../base/db/database';
import { json, rowsOf } from '../base/db/rows';

const row = z.object({
  message_id: z.string().nullable(),
  refs: z.array(z.string()),
  subject: z.string(),
  at: z.number(),
  body: z.string(),
  people: json<{ role: (typeof PARTICIPANT_ROLES)[number]; name: string; address: string }[]>().nullable(),
  mailboxes: z.array(z.number()).nullable(),
});

/** An email that the acting user may read, as far as an answer takes something over; null: there is none. */
export async function answeredEmail(tx: Tx, id: number): Promise<(Answered & { mailboxIds: number[] }) | null> {
  const [found] = await rowsOf(
    tx,
    row,
    sql`
    SELECT e.message_id, e."references" AS refs, c.subject, (extract(epoch FROM e.sent_at) * 1000)::float8 AS at, c.body,
      (SELECT json_agg(json_build_object('role', p.role, 'name', p.name, 'address', p.address) ORDER BY p.role, p.position) FROM participants p
        WHERE p.email_id = e.id AND p.address <> ALL (fulvet_hidden_bcc(e.id))) AS people,
      (SELECT array_agg(s.mailbox_id) FROM sightings s WHERE s.email_id = e.id) AS mailboxes
    FROM emails e JOIN email_contents c ON c.email_id = e.id WHERE e.id = ${id}`,
  );
  if (!found) return null;
  const of = (role: (typeof PARTICIPANT_ROLES)[number]): Correspondent[] =>
    (found.people ?? []).filter((person) => person.role === role).map(({ name, address }) => ({ name, address }));
  return {
    messageId: found.message_id,
    references: found.refs,
    subject: found.subject,
    at: found.at,
    text: found.body,
    from: of('from')[0] ?? null,
    replyTo: of('replyTo'),
    to: of('to'),
    cc: of('cc'),
    mailboxIds: found.mailboxes ?? [],
  };
}
