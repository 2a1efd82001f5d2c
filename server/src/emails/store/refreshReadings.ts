import { codeWordsOfText, wordPairsOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import { z } from 'zod';
import type { Database } from '../../base/db/database';
import { rowsOf } from '../../base/db/rows';
import { READING } from '../contents';

const BATCH = 500;

const staleRow = z.object({ id: z.number(), body: z.string() });

/**
 * Reads again what deciding needs of texts that were stored by an earlier version: codes, and which words follow each other. Decisions that stand
 * stay as they are until their emails are decided again.
 *
 * @returns how many were read
 */
export async function refreshReadings(database: Database, log: Logger, isStopped: () => boolean = () => false): Promise<number> {
  let refreshed = 0;
  for (let after = 0; !isStopped();) {
    const rows = await rowsOf(
      database.worker,
      staleRow,
      sql`SELECT email_id AS id, body FROM email_contents WHERE email_id > ${after} AND reading < ${READING} ORDER BY email_id LIMIT ${BATCH}`,
    );
    const last = rows.at(-1);
    if (!last) break;
    const readings = rows.map(({ id, body }) => ({ id, codes: codeWordsOfText(body), pairs: wordPairsOf(body) }));
    await database.work((tx) =>
      tx.execute(sql`UPDATE email_contents c SET codes = ARRAY(SELECT json_array_elements_text(r.codes)), word_pairs = r.pairs, reading = ${READING}
        FROM json_to_recordset(${JSON.stringify(readings)}::json) AS r(id bigint, codes json, pairs text) WHERE c.email_id = r.id`),
    );
    refreshed += rows.length;
    after = last.id;
  }
  if (refreshed > 0) log.warn({ refreshed }, 'texts that an earlier version had read were read again');
  return refreshed;
}
