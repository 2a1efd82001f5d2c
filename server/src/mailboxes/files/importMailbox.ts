import type { ImportRun, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { z } from 'zod';
import type { Tx } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import { isRefusal, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { addWork, cancelWork, workAbout } from '../../base/work';
import { uploadName } from './importRun';
import { importRun } from './queries';

const mailboxRow = z.object({ id: z.number(), owner_id: z.number() });

/**
 * The mailbox of this address, made when it is new: a member's own where the address is a member's, else the importer's.
 * Only administrators import into another's mailbox.
 */
async function mailboxFor(tx: Tx, user: User, address: string): Promise<number | Refusal> {
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

/** Opens an import into the mailbox of an address: it takes files until it is queued. @returns its id */
export async function openImport(tx: Tx, user: User, address: string): Promise<number | Refusal> {
  const mailboxId = await mailboxFor(tx, user, address);
  if (isRefusal(mailboxId)) return mailboxId;
  const workId = await addWork(tx, 'import', { state: 'open', phase: 'reading' });
  const [row] = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO imports (work_id, mailbox_id, user_id) VALUES (${workId}, ${mailboxId}, ${user.id}) RETURNING id`,
  );
  return row?.id ?? 0;
}

/** Queues an open import that has files. @returns whether it was one */
export async function queueImport(tx: Tx, id: number): Promise<boolean> {
  const { rowCount } = await tx.execute(
    sql`UPDATE work w SET state = 'queued' FROM imports i WHERE i.id = ${id} AND w.id = i.work_id AND w.state = 'open' AND cardinality(i.file_names) > 0`,
  );
  return (rowCount ?? 0) > 0;
}

/** Starts an open import. */
export async function startImport({ database, jobs }: Services, user: User, id: number): Promise<ImportRun | Refusal> {
  const run = await database.as(user.id, async (tx) => {
    const isQueued = await queueImport(tx, id);
    const found = await importRun(tx, id);
    if (isRefusal(found) || isQueued) return found;
    const why = found.files.length === 0 ? 'The import has no files yet.' : 'The import was started already.';
    return new Refusal('conflict', 'not-open', why);
  });
  if (!isRefusal(run)) await jobs.importMail(id);
  return run;
}

/** Cancels an import; the files of one that was never started go. */
export async function cancelImport({ database, uploads }: Services, user: User, id: number): Promise<ImportRun | Refusal> {
  let wasOpen = false;
  const run = await database.as(user.id, async (tx) => {
    const workId = await workAbout(tx, 'import', id);
    wasOpen = workId !== null && (await cancelWork(tx, workId, { states: ['open'], message: 'Cancelled before it was started.' }));
    return importRun(tx, id);
  });
  if (!isRefusal(run) && wasOpen) await rm(join(uploads, String(id)), { recursive: true, force: true });
  return run;
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
    const created = await openImport(tx, user, address);
    if (!isRefusal(created))
      await tx.execute(
        sql`UPDATE imports SET file_names = ${sql.param([name])}::text[], total_bytes = ${Buffer.byteLength(mbox)} WHERE id = ${created}`,
      );
    return created;
  });
  if (isRefusal(id)) return id;
  const folder = join(services.uploads, String(id));
  await mkdir(folder, { recursive: true, mode: 0o700 });
  await writeFile(join(folder, uploadName(0)), mbox, { mode: 0o600 });
  await services.database.as(user.id, (tx) => queueImport(tx, id));
  await services.jobs.importMail(id);
  return id;
}
