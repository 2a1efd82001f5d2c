import { idRow, rowsOf } from '../../base/db/rows';
import { sql } from 'drizzle-orm';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { Services } from '../../base/services';

/** Files of imports that were never started are of no use after a restart of the server a day later. */
export async function removeStaleUploads(services: Pick<Services, 'database' | 'uploads'>): Promise<void> {
  const rows = await rowsOf(
    services.database.worker,
    idRow,
    sql`UPDATE work w SET state = 'cancelled', finished_at = now(), message = 'Never started.' FROM imports i
      WHERE i.work_id = w.id AND w.state = 'open' AND w.created_at < now() - interval '1 day' RETURNING i.id`,
  );
  for (const { id } of rows) await rm(join(services.uploads, String(id)), { recursive: true, force: true });
}
