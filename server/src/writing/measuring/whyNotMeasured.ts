import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { domainOf } from '@fulvet/core';
import type { Measuring } from '@fulvet/contract';
import type { Db, Tx } from '../../base/db/database';
import { json, rowsOf } from '../../base/db/rows';
import { Forgotten } from '../../emails/store/forgotten';

/** An email, as far as it matters for whether its openings may be counted. */
export interface ToMeasure {
  writerId: number;
  mailboxId: number;
  recipients: readonly { address: string }[];
}

const situationRow = z.object({
  measuring: json<Measuring>(),
  link_address: z.string().nullable(),
  may: z.boolean(),
  mailbox: z.boolean(),
  unsubscribed: z.boolean(),
});

export interface MayMeasure {
  /** With what links of the installation begin. */
  address: string;
  notice: string;
}

/**
 * Whether openings of an email may be counted by what holds now.
 *
 * @param isOurs whether an address is a colleague's
 * @returns why not, for its writer; empty: the workspace counts none
 */
export async function whyNotMeasured(
  db: Db | Tx,
  { writerId, mailboxId, recipients }: ToMeasure,
  isOurs: (address: string, domain: string) => boolean,
): Promise<MayMeasure | string> {
  const [address = ''] = recipients.map((recipient) => recipient.address.toLowerCase());
  const [row] = await rowsOf(
    db,
    situationRow,
    sql`SELECT w.measuring, w.link_address, fulvet_may_write(${writerId}, 'measure') AS may, coalesce((SELECT m.measures FROM mailboxes m WHERE m.id = ${mailboxId}), false) AS mailbox,
      EXISTS (SELECT FROM unsubscribes u WHERE u.address = ${address}) AS unsubscribed FROM workspace w`,
  );
  if (!row?.measuring.isOn || row.link_address === null) return '';
  if (!row.may) return 'Your workspace does not let you count openings.';
  if (!row.mailbox) return 'Openings are not counted for this mailbox. Its owner can change that under Mailboxes.';
  if (recipients.length !== 1) return 'Openings are counted only in an email to exactly one person.';
  const domain = domainOf(address);
  if (isOurs(address, domain)) return 'Openings by colleagues are not counted.';
  const isNever = row.measuring.never.some((never) => never === address || never === domain || domain.endsWith(`.${never}`));
  if (isNever || row.unsubscribed || (await Forgotten.load(db)).has(address)) return 'Openings by this person are never counted.';
  return { address: row.link_address, notice: row.measuring.notice };
}
