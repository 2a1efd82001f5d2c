import { sql } from 'drizzle-orm';
import type { StopReason } from '@fulvet/core';
import type { Db, Tx } from '../../base/db/database';
import { OPEN } from './queries';

/**
 * Sends nothing more of a series to someone. An email that is not handed over yet is a draft again; where its writer never touched it, it goes.
 *
 * @param problem what its member is to know beside the reason
 */
export async function stopRun(
  tx: Db | Tx,
  id: number,
  why: StopReason,
  { problem = '', emailId = null }: { problem?: string; emailId?: number | null } = {},
): Promise<void> {
  await tx.execute(
    sql`UPDATE series_runs r SET state = 'stopped', why = ${why}, problem = ${problem}, stopped_by_email = ${emailId}, ended_at = now() WHERE r.id = ${id} AND ${OPEN}`,
  );
  await letEmailGo(tx, id);
}

/** What became of a series that has stopped: its email that is not handed over stays as a draft where its writer touched it, else it goes. */
export async function letEmailGo(tx: Db | Tx, id: number): Promise<void> {
  const ofRun = sql`o.id = s.outgoing_id AND s.run_id = ${id} AND s.done_at IS NULL`;
  await tx.execute(
    sql`UPDATE outgoing o SET state = 'draft', due_at = NULL, message_id = NULL, source = NULL, wire = NULL, problem = 'The series has stopped. This email is not sent by itself any more.' FROM series_steps s WHERE ${ofRun} AND o.state IN ('due', 'draft')`,
  );
  await tx.execute(sql`DELETE FROM outgoing o USING series_steps s WHERE ${ofRun} AND o.state = 'draft' AND o.revision = 0`);
  await tx.execute(sql`UPDATE series_steps s SET outgoing_id = NULL FROM outgoing o WHERE ${ofRun} AND o.state = 'draft'`);
}
