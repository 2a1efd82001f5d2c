import { z } from 'zod';
import { json, moment, rowsOf } from '../../base/db/rows';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';

const MOST_LISTED = 200;

const erasureRow = z.object({
  id: z.number(),
  at: moment,
  by: z.string(),
  reference: z.string(),
  counts: json<Record<string, number>>(),
  certificate: z.string(),
});

/** The newest erasures, with their certificates. */
export const newestErasures = (tx: Tx): Promise<z.output<typeof erasureRow>[]> =>
  rowsOf(
    tx,
    erasureRow,
    sql`SELECT e.id, e.at, u.name AS by, e.reference, e.counts, e.certificate FROM erasures e JOIN users u ON u.id = e.by_user_id ORDER BY e.id DESC LIMIT ${MOST_LISTED}`,
  );
