import { sql } from 'drizzle-orm';
import type { Db } from '../../base/db/database';

/** So long it is known that someone got a series. */
const KEPT_DAYS = 180;

/** To whom a series went is forgotten a while after it ended; the emails themselves stay where they are filed. */
export async function forgetEndedRuns(db: Db): Promise<void> {
  await db.execute(sql`DELETE FROM bulk_sends WHERE created_at < now() - make_interval(days => ${KEPT_DAYS})`);
  await db.execute(sql`DELETE FROM series_runs WHERE ended_at < now() - make_interval(days => ${KEPT_DAYS})`);
}
