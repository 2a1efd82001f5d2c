import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { sql } from 'drizzle-orm';
import type { BlobPlace } from '../../base/blobs/blobStore';
import type { Tx } from '../../base/db/database';

const emailRow = z.object({ sha256: z.string(), pack: z.string(), position: z.number(), length: z.number(), size: z.number() });

/** Takes the sources of these emails out of the database. @returns where they lie, to be overwritten when the transaction is through */
export async function eraseSources(tx: Tx, emailIds: readonly number[]): Promise<BlobPlace[]> {
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`SELECT DISTINCT b.sha256, b.pack, b.position, b.length, b.size FROM emails e JOIN blobs b ON b.sha256 = e.blob WHERE e.id = ANY(${sql.param([...emailIds])}::bigint[])`,
  );
  const hashes = sql.param(rows.map((row) => row.sha256));
  await tx.execute(sql`UPDATE emails SET blob = NULL WHERE blob = ANY(${hashes}::text[])`);
  await tx.execute(sql`DELETE FROM blobs WHERE sha256 = ANY(${hashes}::text[])`);
  return rows;
}
