import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import type { OwnKeepOut } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

const ownKeepOutRow = z.object({ id: z.number(), kind: z.enum(['address', 'domain']), value: z.string(), at: moment });

/** What the acting member keeps out of their own mail. */
export const ownKeepOuts = (tx: Tx): Promise<OwnKeepOut[]> =>
  rowsOf(tx, ownKeepOutRow, sql`SELECT id, kind, value, at FROM own_keep_outs ORDER BY value`);

const addedKeepOutRow = ownKeepOutRow.extend({ is_new: z.boolean() });

/** Keeps an address or a domain out of a member's own mail. @returns it, and whether it is new */
export async function addOwnKeepOut(
  tx: Tx,
  userId: number,
  kind: OwnKeepOut['kind'],
  value: string,
): Promise<{ keepOut: OwnKeepOut; isNew: boolean }> {
  const [row] = await rowsOf(
    tx,
    addedKeepOutRow,
    sql`INSERT INTO own_keep_outs (user_id, kind, value) VALUES (${userId}, ${kind}, ${value}) ON CONFLICT (user_id, kind, value) DO UPDATE SET value = excluded.value RETURNING id, kind, value, at, xmax = 0 AS is_new`,
  );
  if (!row) throw new Error('what was kept out is not there');
  const { is_new: isNew, ...keepOut } = row;
  return { keepOut, isNew };
}
