import type { User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import type { Tx } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import { isRefusal, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { addWork } from '../../base/work';
import { uploadName } from './importRun';

const mailboxRow = z.object({ id: z.number(), owner_id: z.number() });

/**
 * The mailbox of this address, made when it is new: a member's own where the address is a member's, else the importer's.
 * Only administrators import into another's mailbox.
 */
export async function mailboxFor(tx: Tx, user: User, address: string): Promise<number | Refusal> {
  const known = await rowsOf(tx, mailboxRow, sql`SELECT id, owner_id FROM mailboxes WHERE address = ${address}`);
  const member = await rowsOf(tx, idRow, sql`SELECT id FROM users WHERE lower(email) = ${address}`);
  const ownerId = known[0]?.owner_id ?? member[0]?.id ?? user.id;
  if (ownerId !== user.id && user.role !== 'admin')
    return new Refusal(
      'forbidden',
      'not-your-mailbox',
      `${address} is another member’s mailbox. Import into your own, or ask an administrator.`,
    );
  if (known[0]) return known[0].id;
  const rows = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO mailboxes (address, owner_id) VALUES (${address}, ${ownerId}) ON CONFLICT (address) DO UPDATE SET address = excluded.address RETURNING id`,
  );
  return rows[0]?.id ?? 0;
}

/** Begins an import of one file of mail that this program made itself. @returns the id of the import */
export async function importOwnFile(
  services: Services,
  user: User,
  address: string,
  name: string,
  mbox: string,
): Promise<number | Refusal> {
  const id = await services.database.as(user.id, async (tx) => {
    const mailboxId = await mailboxFor(tx, user, address);
    if (isRefusal(mailboxId)) return mailboxId;
    const workId = await addWork(tx, 'import', { state: 'open', phase: 'reading' });
    const [row] = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO imports (work_id, mailbox_id, user_id, file_names, total_bytes) VALUES (${workId}, ${mailboxId}, ${user.id}, ${sql.param([name])}::text[], ${Buffer.byteLength(mbox)}) RETURNING id`,
    );
    return row?.id ?? 0;
  });
  if (isRefusal(id)) return id;
  const folder = join(services.uploads, String(id));
  await mkdir(folder, { recursive: true, mode: 0o700 });
  await writeFile(join(folder, uploadName(0)), mbox, { mode: 0o600 });
  await services.database.as(user.id, (tx) =>
    tx.execute(sql`UPDATE work SET state = 'queued' WHERE id = (SELECT work_id FROM imports WHERE id = ${id}) AND state = 'open'`),
  );
  await services.jobs.importMail(id);
  return id;
}
