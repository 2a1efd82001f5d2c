import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import type { RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

const MOST_CHANGES = 300;

const recordChangeRow = z.object({
  id: z.number(),
  at: moment,
  by: z.string().nullable(),
  field: z.string(),
  before: z.string(),
  after: z.string(),
});

/** The newest changes of a record's fields. */
export const changesOf = (tx: Tx, kind: RecordKind, id: number): Promise<z.output<typeof recordChangeRow>[]> =>
  rowsOf(
    tx,
    recordChangeRow,
    sql`SELECT c.id, c.at, u.name AS by, c.field, c.before, c.after FROM record_changes c LEFT JOIN users u ON u.id = c.user_id WHERE c.kind = ${kind} AND c.record_id = ${id} ORDER BY c.id DESC LIMIT ${MOST_CHANGES}`,
  );
