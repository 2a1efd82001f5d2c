import type { RecordKind, Undone } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { writeDown } from '../../base/audit';
import type { Db, Tx } from '../../base/db/database';
import { takeMailLock } from '../../base/db/mailLock';
import { idRow, rowsOf } from '../../base/db/rows';
import { Refusal } from '../../base/refusal';
import { noteStep } from '../../base/undoLog';
import type { Undoer } from '../../base/undoLog';
import { resetReadersOf } from '../../emails/owners';
import { eraseSources } from '../../emails/store/eraseSources';
import { removeCreated } from '../../records/removeCreated';

const imported = z.object({ importId: z.number() });
const BATCH = 500;
const BY_HAND = 'it was filed by hand since';

/**
 * An import of mail is taken back: emails that lie nowhere else go, sources and all, with the records that they alone created; those that lie in another mailbox
 * or folder, too, stay there. What was repaired by hand stays. Emails beside them in their conversations are decided again.
 */
export const undoMailImport: Undoer<z.output<typeof imported>> = {
  kind: 'mailImport',
  payload: imported,
  undo: async ({ database, blobs, jobs }, doer, { importId }) => {
    const [run] = await rowsOf(
      database.worker,
      stateRow,
      sql`SELECT w.state FROM imports i JOIN work w ON w.id = i.work_id WHERE i.id = ${importId}`,
    );
    if (run?.state === 'queued' || run?.state === 'running')
      return new Refusal('conflict', 'running', 'The import is still running. Cancel it first, or wait until it is done.');
    const kept = await keepRepaired(database.worker, importId);
    const found: Found = { emails: 0, records: [], conversations: new Set() };
    for (;;) {
      const batch = await database.work((tx) => takeBatch(tx, importId, found));
      await blobs.erase(batch.places);
      if (batch.size < BATCH) break;
    }
    const stay = await database.work(async (tx) => {
      await takeMailLock(tx);
      const stay = await removeCreated(tx, found.records, { filings: true });
      await tx.execute(
        sql`UPDATE emails SET decided_at = NULL WHERE conversation_id = ANY(${sql.param([...found.conversations])}::bigint[])`,
      );
      await tx.execute(
        sql`UPDATE work w SET message = ${`Undone by ${doer.name}.`} FROM imports i WHERE i.id = ${importId} AND w.id = i.work_id`,
      );
      await writeDown(tx, doer, { kind: 'mailbox', about: `undid an import of mail: ${found.emails} emails` });
      return stay;
    });
    await jobs.decidePending();
    return { changed: found.emails, kept: [...kept, ...stay] };
  },
};

const stateRow = z.object({ state: z.string() });
const summaryRow = z.object({ address: z.string(), user_id: z.number(), emails: z.number() });

/** Notes an import that has come to its end, however it ended, as a step that can be undone, where something came in. */
export async function noteMailImport(db: Db, importId: number): Promise<void> {
  await db.transaction(async (tx) => {
    const [run] = await rowsOf(
      tx,
      summaryRow,
      sql`SELECT m.address, i.user_id, (SELECT count(*)::int FROM sightings s WHERE s.import_id = i.id) AS emails FROM imports i JOIN mailboxes m ON m.id = i.mailbox_id
        WHERE i.id = ${importId} AND NOT EXISTS (SELECT FROM undo_log u WHERE u.kind = ${undoMailImport.kind} AND u.payload @> jsonb_build_object('importId', i.id)) FOR UPDATE OF i`,
    );
    if (!run || run.emails === 0) return;
    const summary = `Imported ${run.emails === 1 ? '1 email' : `${run.emails.toLocaleString('en-US')} emails`} into ${run.address}`;
    await noteStep(tx, run.user_id, undoMailImport, { summary, payload: { importId } });
  });
}

/** Emails that people have filed, taken off or sealed by hand are theirs by now: they leave the import. */
async function keepRepaired(db: Db, importId: number): Promise<Undone['kept']> {
  const rows = await rowsOf(
    db,
    idRow,
    sql`UPDATE sightings s SET import_id = NULL WHERE s.import_id = ${importId} AND EXISTS (SELECT FROM pins p WHERE p.email_id = s.email_id AND p.released_at IS NULL) RETURNING s.email_id AS id`,
  );
  return rows.map(({ id }) => ({ kind: 'email', id, name: `Email ${id}`, because: BY_HAND }));
}

interface Found {
  emails: number;
  records: { kind: RecordKind; id: number }[];
  conversations: Set<number>;
}

const goneRow = z.object({ id: z.number(), conversation_id: z.number(), alone: z.boolean() });
const createdRow = z.object({ kind: z.enum(['contact', 'lead', 'account']), id: z.number() });

/** Takes the next emails out of the import; what they leave behind is noted in `found`. */
async function takeBatch(tx: Tx, importId: number, found: Found) {
  await takeMailLock(tx);
  const rows = await rowsOf(
    tx,
    goneRow,
    sql`WITH gone AS (DELETE FROM sightings s USING (SELECT email_id, mailbox_id, folder FROM sightings WHERE import_id = ${importId} ORDER BY email_id LIMIT ${BATCH}) b
        WHERE s.email_id = b.email_id AND s.mailbox_id = b.mailbox_id AND s.folder = b.folder RETURNING s.email_id, s.mailbox_id, s.folder)
      SELECT e.id, e.conversation_id, NOT EXISTS (SELECT FROM sightings o WHERE o.email_id = e.id AND NOT EXISTS (SELECT FROM gone g WHERE (g.email_id, g.mailbox_id, g.folder) = (o.email_id, o.mailbox_id, o.folder))) AS alone
      FROM emails e WHERE e.id IN (SELECT email_id FROM gone)`,
  );
  const alone = rows.filter((row) => row.alone).map((row) => row.id);
  const these = sql`${sql.param(alone)}::bigint[]`;
  found.records.push(
    ...(await rowsOf(
      tx,
      createdRow,
      sql`SELECT 'contact' AS kind, id FROM contacts WHERE origin_email_id = ANY(${these}) UNION ALL SELECT 'lead', id FROM leads WHERE origin_email_id = ANY(${these})
        UNION ALL SELECT 'account', id FROM accounts WHERE origin_email_id = ANY(${these})`,
    )),
  );
  for (const row of rows) found.conversations.add(row.conversation_id);
  found.emails += rows.length;
  const places = await eraseSources(tx, alone);
  await tx.execute(sql`DELETE FROM emails WHERE id = ANY(${these})`);
  await resetReadersOf(
    tx,
    rows.filter((row) => !row.alone).map((row) => row.id),
  );
  return { places, size: rows.length };
}
