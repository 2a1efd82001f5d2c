import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { writeDown } from '../base/audit';
import type { Tx } from '../base/db/database';
import { takeMailLock } from '../base/db/mailLock';
import type { Services } from '../base/services';
import { resetReaders } from '../emails/owners';
import { raiseRevision, refuseSelf } from './mailboxRights';
import type { MailboxRow } from './mailbox';
import { noteEvent } from './mailboxLog';
import { memberName } from '../base/db/memberName';
import { giveTo } from './queries';

/** Gives a mailbox with all its mail to another member. @returns how many emails it holds */
export async function passOnMailbox(
  services: Services,
  user: User,
  mailbox: MailboxRow,
  toId: number,
): Promise<{ emails: number } | Refusal> {
  const { database, jobs } = services;
  const name = await memberName(database.worker, toId);
  if (name === null) return notFound('member');
  const refused = refuseSelf(user, mailbox.owner_id, toId === user.id);
  if (isRefusal(refused)) return refused;
  const emails = await database.work(async (tx) => {
    await takeMailLock(tx);
    await giveTo(tx, mailbox.id, toId);
    await noteEvent(tx, mailbox.id, 'note', `${user.name} gave it to ${name}.`);
    const about = `gave the mailbox ${mailbox.address} with all its mail to ${name}`;
    await writeDown(tx, user, { kind: 'mailbox', about, subjectId: mailbox.owner_id });
    return resetReaders(tx, mailbox.id);
  });
  await raiseRevision(services, mailbox.id);
  await jobs.decidePending();
  return { emails };
}

const mailboxRow = z.object({ id: z.number(), address: z.string() });

/** Passes the mailboxes of a member who leaves on, or stops them. */
export async function passMailboxes(
  tx: Tx,
  user: User,
  memberId: number,
  mailboxesTo: number | null,
): Promise<{ mailboxes: number; emails: number } | Refusal> {
  const boxes = await rowsOf(tx, mailboxRow, sql`SELECT id, address FROM mailboxes WHERE owner_id = ${memberId} ORDER BY id`);
  // Whoever closes the door does not come to read the mail by that.
  if (boxes.length > 0) {
    const refused = refuseSelf(user, memberId, mailboxesTo === user.id);
    if (isRefusal(refused)) return refused;
  }
  let emails = 0;
  for (const box of boxes) {
    await tx.execute(
      sql`UPDATE mailboxes SET owner_id = coalesce(${mailboxesTo}::bigint, owner_id), state = CASE WHEN state IN ('running', 'connecting') THEN 'paused' ELSE state END, revision = revision + 1 WHERE id = ${box.id}`,
    );
    await noteEvent(tx, box.id, 'note', `${user.name} deactivated its owner${mailboxesTo === null ? '' : ' and gave it to someone else'}.`);
    emails += await resetReaders(tx, box.id);
  }
  return { mailboxes: boxes.length, emails };
}
