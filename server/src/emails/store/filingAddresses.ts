import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import type { ReadMessage } from './readMessage';

/** A mailbox that filing addresses lead to: `filing+CODE@quillmere.example`. */
interface FilingMailbox {
  local: string;
  domain: string;
}

const mailboxRow = z.object({ address: z.string() });

const gestureRow = z.object({ email_id: z.number() });

/**
 * Notes which messages were sent or forwarded to a record's filing address. The word of a teammate counts; of anyone else it
 * is noted as not trusted, and the email waits. Emails that gain a note are left undecided.
 */
export async function noteFilingAddresses(
  tx: Tx,
  batch: readonly ReadMessage[],
  emailIds: readonly number[],
  rulebook: CompiledRulebook,
): Promise<void> {
  const rows = await rowsOf(tx, mailboxRow, sql`SELECT address FROM mailboxes WHERE kind = 'filing'`);
  if (rows.length === 0) return;
  const mailboxes = rows.map(({ address }): FilingMailbox => {
    const at = address.lastIndexOf('@');
    return { local: `${address.slice(0, at)}+`, domain: address.slice(at) };
  });
  const found = batch.flatMap((message, at) => {
    const sender = message.facts.participants.find((participant) => participant.role === 'from');
    const trusted = sender !== undefined && rulebook.isOurs(sender.address, sender.domain);
    return addressesOf(message).flatMap((address) => {
      const code = codeOf(address, mailboxes);
      return code === null ? [] : [{ email: emailIds[at] ?? 0, code, address, sender: sender?.address ?? '', trusted }];
    });
  });
  if (found.length === 0) return;
  const noted = await rowsOf(
    tx,
    gestureRow,
    sql`
    INSERT INTO gestures (email_id, via, target, record_id, detail, user_id, trusted)
    SELECT n.email, 'address', CASE WHEN d.id IS NOT NULL THEN 'deal' WHEN a.id IS NOT NULL THEN 'account' WHEN l.id IS NOT NULL THEN 'lead' WHEN o.id IS NOT NULL THEN 'own' END, coalesce(d.id, a.id, l.id, o.id), n.address,
      (SELECT u.id FROM users u WHERE lower(u.email) = n.sender), n.trusted
    FROM json_to_recordset(${JSON.stringify(found)}::json) AS n(email bigint, code text, address text, sender text, trusted boolean)
    LEFT JOIN deals d ON d.filing_code = n.code LEFT JOIN accounts a ON a.filing_code = n.code LEFT JOIN leads l ON l.filing_code = n.code LEFT JOIN own_records o ON o.filing_code = n.code
    ON CONFLICT DO NOTHING RETURNING email_id`,
  );
  const concerned = noted.map((row) => row.email_id);
  if (concerned.length > 0) await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE id = ANY(${sql.param(concerned)}::bigint[])`);
}

/** Addresses that the message was sent to, the hidden ones as far as it tells of them. */
function addressesOf(message: ReadMessage): string[] {
  const shown = message.facts.participants.filter(
    (participant) => participant.role === 'to' || participant.role === 'cc' || participant.role === 'bcc',
  );
  return [...new Set([...shown.map((participant) => participant.address), ...message.facts.deliveredTo])];
}

function codeOf(address: string, mailboxes: readonly FilingMailbox[]): string | null {
  const mailbox = mailboxes.find((item) => address.startsWith(item.local) && address.endsWith(item.domain));
  return mailbox ? address.slice(mailbox.local.length, address.length - mailbox.domain.length) : null;
}
