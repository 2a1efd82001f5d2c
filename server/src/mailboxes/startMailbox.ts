import { Refusal } from '../base/refusal';
import type { User } from '@fulvet/contract';
import { CHECK_STEPS } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Services } from '../base/services';
import { announceMailbox, noteEvent } from './mailboxLog';

/**
 * Has a mailbox followed from now on.
 *
 * @returns a refusal while not every check has passed: a mailbox that does not fully work is never shown as working
 */
export async function startMailbox(services: Services, user: User, mailboxId: number): Promise<Refusal | null> {
  const { worker } = services.database;
  const { rowCount: passed } = await worker.execute(sql`SELECT FROM mailbox_checks WHERE mailbox_id = ${mailboxId} AND state = 'passed'`);
  if (passed !== CHECK_STEPS.length)
    return new Refusal('conflict', 'not-checked', 'Not every check has passed yet. Fix what failed, then continue from there.');
  await worker.execute(
    sql`UPDATE mailboxes SET state = 'running', problem = NULL, started_at = coalesce(started_at, now()), last_contact_at = CASE WHEN state = 'connecting' THEN NULL ELSE last_contact_at END WHERE id = ${mailboxId}`,
  );
  await noteEvent(worker, mailboxId, 'note', `${user.name} started it.`);
  await services.jobs.hurryMailbox(mailboxId);
  await announceMailbox(worker, mailboxId);
  return null;
}
