import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Db } from '../base/db/database';
import type { DueEmail } from './dueEmail';
import { sendersOf } from './senders/queries';
import { whyStop } from './series/whyStop';

/** Later than this, in minutes, its writer is asked whether it is still to be sent. */
const LATE_MINUTES = 60;
const LATE = 'It was due more than an hour ago, when it could not be sent. Send it again if it is still right.';

/** Everything is checked again at the moment of sending. @returns what becomes of the email where it is not to be sent */
export async function whyNotSent(db: Db, email: DueEmail): Promise<SQL | null> {
  const [sender] = await sendersOf(db, email.writer_id, { mailboxId: email.mailbox_id, fromAddress: email.address });
  if (!sender)
    return sql`state = 'refused', problem = ${`You may not send from ${email.address} any more, or it is not connected. Choose another address.`}`;
  if (email.timed && email.answered_by !== null)
    return sql`state = 'refused', problem = ${`${email.answered_by} wrote in this conversation meanwhile. Read it, then send your email again.`}`;
  const isLate = email.late > LATE_MINUTES && email.tries === 1;
  if (email.run_id !== null) {
    // What speaks against it stops the series; the email waits for that as a draft.
    if (await whyStop(db, email.run_id))
      return sql`state = 'draft', due_at = NULL, problem = 'Something speaks against sending it by itself.'`;
    if (isLate) return sql`state = 'draft', due_at = NULL, problem = ${LATE}`;
  }
  return isLate ? sql`state = 'refused', problem = ${LATE}` : null;
}
