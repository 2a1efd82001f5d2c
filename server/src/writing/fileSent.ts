import { sql } from 'drizzle-orm';
import { repairRequest, user } from '@fulvet/contract';
import { fromForm, receiverOf, withCompanyAuthor } from '@fulvet/core';
import { idRow, rowsOf } from '../base/db/rows';
import { isRefusal } from '../base/refusal';
import type { Services } from '../base/services';
import { decideConversations } from '../decision/decideConversations';
import { loadReaders, ownersIn } from '../emails/owners';
import { storeBatch } from '../emails/store/storeBatch';
import { loadMailbox } from '../mailboxes/mailbox';
import { applyRepair } from '../repairs/applyRepair';
import { liveRulebook } from '../rulebook/liveRulebook';
import { RulebookInForce } from '../rulebook/rulebookInForce';
import type { DueEmail } from './dueEmail';
import { chosenRecords } from './dueEmail';

/**
 * Files an email that was sent, as its writer chose: it is stored as the mailbox will show it, so that reading the mailbox finds it known, and
 * pinned to the chosen records. Doing it again changes nothing.
 *
 * @param folder the sent folder of the mailbox
 * @returns the id of the email
 */
export async function fileSent(services: Services, email: DueEmail, source: Buffer, folder: string): Promise<number> {
  const { database, blobs } = services;
  const { compiled } = await liveRulebook(database);
  const mailbox = await loadMailbox(database.worker, email.mailbox_id);
  const receiver = receiverOf(compiled.ownDomains, email.address, mailbox?.connection?.imap.host ?? null);
  const [found] = await blobs.read([{ raw: source, options: { arrivedAt: Date.now(), receiver } }]);
  if (!found) throw new Error('an email that was sent could not be read');
  const facts = fromForm(withCompanyAuthor(found, compiled.isPublicProvider), compiled);
  const ownerIds = ownersIn(await loadReaders(database.worker, email.mailbox_id), facts);
  let emailId = 0;
  await storeBatch(
    database.worker,
    blobs,
    [{ raw: source, facts, file: '', position: 0, ownerIds }],
    { mailboxId: email.mailbox_id, folder, importId: null, arrivedAt: Date.now() },
    compiled,
    async (tx, ids) => {
      emailId = ids[0] ?? 0;
      await tx.execute(sql`UPDATE outgoing SET email_id = ${emailId} WHERE id = ${email.id}`);
      await tx.execute(
        sql`UPDATE measures m SET email_id = o.email_id, sent_at = coalesce(m.sent_at, o.sent_at) FROM outgoing o WHERE o.id = ${email.id} AND m.outgoing_id = o.id`,
      );
    },
  );
  await pin(services, email, emailId);
  return emailId;
}

async function pin(services: Services, email: DueEmail, emailId: number): Promise<void> {
  const { database, blobs } = services;
  const records = chosenRecords(email);
  const isByHand = records.length > 0 || email.filing_how === 'none';
  const done = await rowsOf(
    database.worker,
    idRow,
    sql`SELECT id FROM pins WHERE email_id = ${emailId} AND user_id = ${email.writer_id} LIMIT 1`,
  );
  if (isByHand && done.length === 0) {
    const [writer] = await rowsOf(database.worker, user, sql`SELECT id, email, name, role FROM users WHERE id = ${email.writer_id}`);
    if (!writer) throw new Error('an email without its writer');
    const order = repairRequest.parse({
      emails: [emailId],
      file: records,
      takeOff: email.filing_how === 'none' ? [{ kind: null, id: null }] : [],
    });
    const applied = await applyRepair(services, writer, order);
    if (!isRefusal(applied)) return;
    // A record that is gone by now: the rules file what is left.
    services.log.warn({ outgoing: email.id, refused: applied.code }, 'a sent email was not filed as chosen');
  }
  const inForce = await RulebookInForce.load(database);
  await database.work(async (tx) => {
    const conversations = await rowsOf(
      tx,
      idRow,
      sql`SELECT conversation_id AS id FROM emails WHERE id = ${emailId} AND decided_at IS NULL`,
    );
    await decideConversations(
      tx,
      blobs,
      conversations.map(({ id }) => id),
      inForce,
    );
  });
}
