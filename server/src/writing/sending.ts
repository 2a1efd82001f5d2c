import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Outgoing, User } from '@fulvet/contract';
import { TAKE_BACK_SECONDS } from '@fulvet/contract';
import { fieldsIn } from '@fulvet/core';
import { writeDown } from '../base/audit';
import type { Tx } from '../base/db/database';
import { idRow, rowsOf } from '../base/db/rows';
import { announce } from '../base/live/changes';
import { isRefusal, notFound, Refusal } from '../base/refusal';
import type { Services } from '../base/services';
import { newMessageId } from './composeMail';
import { settleLinks } from './documents/links';
import { demandDraft, notYours } from './drafts';
import { outgoingOf } from './queries';
import { sendersOf } from './senders/queries';

type Parts = Pick<Services, 'database'>;

/** Who hands emails over hears by this that one is due. */
export const OUTGOING_QUEUE = 'outgoing';

/**
 * Sends a draft: after the seconds in which it can be taken back, or at a time. Its Message-ID is fixed from here on.
 *
 * @param at null: now
 * @param named its Message-ID, where it has one already
 */
export async function send(
  { database }: Parts,
  user: User,
  id: number,
  { revision, at, agree }: { revision: number; at: string | null; agree: boolean },
  named: string | null = null,
): Promise<Outgoing | Refusal> {
  const sent = await database.as(user.id, async (tx): Promise<Outgoing | Refusal> => {
    const draft = await demandDraft(tx, id, revision);
    if (isRefusal(draft)) return draft;
    if (draft.to.length + draft.cc.length + draft.bcc.length === 0)
      return new Refusal('unfit', 'no-recipient', 'Name at least one recipient. Your draft is kept.', { to: 'needs an address' });
    const [sender] = await sendersOf(tx, user.id, draft);
    if (!sender) return notYours();
    const empty = fieldsIn(draft.subject + draft.html);
    if (empty.length > 0)
      return new Refusal('unfit', 'empty-field', `Fill the marked fields first, or delete them: ${empty.join(', ')}. Your draft is kept.`);
    const unasked = await demandAgreement(tx, user, sender.mailboxId, agree);
    if (unasked) return unasked;
    await settleLinks(tx, draft);
    const messageId = named ?? newMessageId(sender.address);
    await tx.execute(sql`
      UPDATE outgoing SET state = 'due', due_at = greatest(coalesce(${at}::timestamptz, now()), now() + make_interval(secs => ${TAKE_BACK_SECONDS})), message_id = ${messageId},
        tries = 0, source = NULL, wire = NULL, content_begun = false, response = NULL, problem = '', changed_at = clock_timestamp() WHERE id = ${id}`);
    return (await outgoingOf(tx, id)) ?? notFound('email');
  });
  if (!isRefusal(sent)) await announce(database.worker, { kind: 'work', queue: OUTGOING_QUEUE });
  return sent;
}

const agreementRow = z.object({ agreed: z.boolean(), owner_id: z.number(), owner: z.string(), address: z.string() });

/** Whoever connected a mailbox before emails were sent from here read that nothing is changed in it: they are asked once. */
export async function demandAgreement(tx: Tx, user: User, mailboxId: number, agree: boolean): Promise<Refusal | null> {
  const [mailbox] = await rowsOf(
    tx,
    agreementRow,
    sql`SELECT m.copies_agreed_at IS NOT NULL AS agreed, m.owner_id, u.name AS owner, m.address FROM mailboxes m JOIN users u ON u.id = m.owner_id WHERE m.id = ${mailboxId}`,
  );
  if (!mailbox || mailbox.agreed) return null;
  const what = `A copy of each email that is sent from here is put into the sent folder of ${mailbox.address}; nothing else in it is changed.`;
  if (mailbox.owner_id !== user.id)
    return new Refusal(
      'conflict',
      'agree-first',
      `${what} Its owner, ${mailbox.owner}, has to agree once, by sending an email from it. Your draft is kept.`,
    );
  if (!agree) return new Refusal('conflict', 'agree-first', `${what} Agree once, and it is sent. Your draft is kept.`);
  await tx.execute(sql`UPDATE mailboxes SET copies_agreed_at = now() WHERE id = ${mailboxId}`);
  await writeDown(tx, user, { kind: 'mailbox', about: `agreed that copies of sent emails are put into ${mailbox.address}` });
  return null;
}

/** Takes an email back that no process hands over yet. */
export function takeBack({ database }: Parts, user: User, id: number): Promise<Outgoing | Refusal> {
  return database.as(user.id, async (tx) => {
    const rows = await rowsOf(
      tx,
      idRow,
      sql`UPDATE outgoing SET state = 'draft', due_at = NULL, message_id = NULL, source = NULL, wire = NULL, changed_at = clock_timestamp() WHERE id = ${id} AND state = 'due' RETURNING id`,
    );
    const found = await outgoingOf(tx, id);
    if (!found) return notFound('email');
    if (rows.length > 0 || found.state === 'draft') return found;
    return new Refusal('conflict', 'under-way', 'It is too late to take this email back: it is being sent, or was sent.');
  });
}

/** What its writer says of an email of which it is unclear whether it was sent. */
export async function settle({ database }: Parts, user: User, id: number, wasSent: boolean): Promise<Outgoing | Refusal> {
  const settled = await database.as(user.id, async (tx): Promise<Outgoing | Refusal> => {
    const rows = await rowsOf(
      tx,
      idRow,
      wasSent
        ? sql`UPDATE outgoing SET state = 'sent', sent_at = coalesce(sent_at, changed_at), problem = '', lease_until = NULL WHERE id = ${id} AND state = 'unclear' RETURNING id`
        : sql`UPDATE outgoing SET state = 'draft', due_at = NULL, message_id = NULL, source = NULL, wire = NULL, content_begun = false, problem = '' WHERE id = ${id} AND state = 'unclear' RETURNING id`,
    );
    const found = await outgoingOf(tx, id);
    if (!found) return notFound('email');
    return rows.length > 0 ? found : new Refusal('conflict', 'not-unclear', 'It is known what became of this email. Look at it again.');
  });
  if (!isRefusal(settled)) await announce(database.worker, { kind: 'work', queue: OUTGOING_QUEUE });
  return settled;
}
