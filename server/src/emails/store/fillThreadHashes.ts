import { z } from 'zod';
import { json, rowsOf } from '../../base/db/rows';
import { SENDER_CHECKS } from '@fulvet/core';
import type { EmailFacts, Participant } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import type { Database } from '../../base/db/database';
import type { Sources, StoredSource } from '../../base/reading/sources';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { insertThreadHashes, ThreadHasher } from './threadHashes';

const BATCH = 1000;

/** An email without thread hashes, with the place of its source where that is kept. */
const unhashedRow = z.object({
  id: z.number(),
  base_subject: z.string().nullable(),
  people: json<Pick<Participant, 'role' | 'address'>[]>().nullable(),
  pack: z.string().nullable(),
  length: z.number().nullable(),
  size: z.number().nullable(),
  position: z.number().nullable(),
  arrived: z.number(),
  sender_check: z.enum(SENDER_CHECKS),
  author_trusted: z.boolean(),
});
type Unhashed = z.infer<typeof unhashedRow>;

/**
 * Gives emails that were stored before there were any their thread hashes: from what is kept of them, else from their source. A kept-out email without
 * either goes by its ids alone.
 *
 * @returns how many were given any
 */
export async function fillThreadHashes(database: Database, sources: Sources, log: Logger): Promise<number> {
  let filled = 0;
  for (let after = 0; ;) {
    const rows = await rowsOf(
      database.worker,
      unhashedRow,
      sql`
      SELECT e.id, e.sender_check, e.author_trusted, c.base_subject, (extract(epoch FROM e.arrived_at) * 1000)::float8 AS arrived, b.pack, b.position, b.length, b.size,
        (SELECT json_agg(json_build_object('role', p.role, 'address', p.address)) FROM participants p WHERE p.email_id = e.id) AS people
      FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id LEFT JOIN blobs b ON b.sha256 = e.blob
      WHERE e.id > ${after} AND NOT EXISTS (SELECT FROM thread_hashes h WHERE h.email_id = e.id) ORDER BY e.id LIMIT ${BATCH}`,
    );
    const last = rows.at(-1);
    if (!last) break;
    const { compiled } = await liveRulebook(database);
    const emptied = rows.filter(hasSource);
    const read = new Map<number, EmailFacts | null>();
    (await sources.readStored(emptied)).forEach((facts, at) => read.set(emptied[at]?.id ?? 0, facts));
    await database.work(async (tx) => {
      const hasher = await ThreadHasher.load(tx);
      await insertThreadHashes(
        tx,
        rows.map(({ id, base_subject: baseSubject, people }) => ({
          id,
          ...hasher.traits(read.get(id) ?? { baseSubject: baseSubject ?? '', participants: people ?? [] }, compiled),
        })),
      );
    });
    filled += rows.length;
    after = last.id;
  }
  if (filled > 0) log.warn({ filled }, 'emails were given what holds their conversations together');
  return filled;
}

const hasSource = (row: Unhashed): row is Unhashed & StoredSource =>
  row.base_subject === null && row.pack !== null && row.length !== null && row.size !== null && row.position !== null;
