import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { isRefusal } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { resetReaders } from '../emails/owners';
import { refuseSelf } from './lookedAfter';
import { noteEvent } from './mailboxLog';

const mailboxRow = z.object({ id: z.number(), address: z.string() });

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
