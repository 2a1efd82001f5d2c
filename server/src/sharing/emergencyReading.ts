import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { RouteShape, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { writeDown } from '../base/audit';
import type { Services } from '../base/services';

/** What an object has that shows an email. */
const OF_EMAILS = ['outcome', 'content', 'preview', 'subject', 'mailClass', 'sender'];

/** The numbers of the emails that an answer shows. */
export function emailsIn(answer: unknown): Set<number> {
  const found = new Set<number>();
  const waiting: unknown[] = [answer];
  while (waiting.length > 0) {
    const value = waiting.pop();
    if (typeof value !== 'object' || value === null) continue;
    if (Array.isArray(value)) {
      for (const item of value as unknown[]) waiting.push(item);
      continue;
    }
    const object = value as Record<string, unknown>;
    if (OF_EMAILS.some((key) => key in object)) for (const id of [object.id, object.emailId]) if (typeof id === 'number') found.add(id);
    waiting.push(...Object.values(object));
  }
  return found;
}

const userRow = z.object({ owner: z.number(), name: z.string(), emails: z.number() });

/**
 * Writes into the owners' logs what a reader is about to be shown of their mail by an emergency reading: lists, previews, histories, domains, search. Before
 * it is sent, so that nothing is read that is not written down.
 *
 * @param answer null where a file is about to be sent: that is written down for every owner
 */
export async function writeEmergencyReading(
  { database }: Pick<Services, 'database'>,
  reader: User,
  owners: readonly number[],
  route: RouteShape,
  answer: unknown,
): Promise<void> {
  const shown = answer === null ? null : [...emailsIn(answer)];
  if (shown?.length === 0) return;
  await database.as(reader.id, async (tx) => {
    const rows = await rowsOf(
      tx,
      userRow,
      shown === null
        ? sql`SELECT u.id AS owner, u.name, 0 AS emails FROM users u WHERE u.id = ANY(${sql.param([...owners])}::bigint[])`
        : sql`SELECT u.id AS owner, u.name, count(*)::int AS emails FROM emails e JOIN users u ON u.id = ANY(e.owner_ids) AND u.id = ANY(${sql.param([...owners])}::bigint[])
            WHERE e.id = ANY(${sql.param(shown)}::bigint[]) AND NOT ${reader.id} = ANY(e.owner_ids) AND NOT ${reader.id} = ANY(e.granted_ids) AND EXISTS (SELECT FROM email_contents c WHERE c.email_id = e.id)
            GROUP BY 1, 2`,
    );
    for (const { owner, name, emails } of rows) {
      const what = emails === 0 ? 'opened a file' : emails === 1 ? 'was shown an email' : `was shown ${emails} emails`;
      await writeDown(tx, reader, {
        kind: 'read',
        about: `${what} in an emergency reading of ${name}’s mail (${route.summary})`,
        subjectId: owner,
      });
    }
  });
}
