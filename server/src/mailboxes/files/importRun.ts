import { imports } from '../../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { fromForm, receiverOf, withCompanyAuthor } from '@fulvet/core';
import type { CompiledRulebook, EmailFacts } from '@fulvet/core';
import { sql, eq } from 'drizzle-orm';
import { existsSync } from 'node:fs';
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Sources } from '../../base/reading/sources';
import type { Database, Db } from '../../base/db/database';
import { isOutage } from '../../base/db/outage';
import { DiskFull } from '../../base/blobs/blobStore';
import { runDecisions } from '../../decision/decideRun';
import { followLateActivity } from '../../decision/followLateActivity';
import { liveRulebook } from '../../rulebook/liveRulebook';
import type { Found, FoundMessage } from './mailFiles';
import { readMailFile } from './mailFiles';
import { noteMailImport } from './undoMailImport';
import type { ReadMessage } from '../../emails/store/readMessage';
import { loadReaders, ownersIn } from '../../emails/owners';
import type { MailboxReaders } from '../../emails/owners';
import type { SightingPlace } from '../../emails/store/storeBatch';
import { storeBatch } from '../../emails/store/storeBatch';

/** After so many ends of the process, the import itself is taken for their cause. */
const MOST_INTERRUPTIONS = 2;
const ENDED_TWICE =
  'The import stopped: the server ended twice while it read these files. What was read by then stands. Divide the files, and import the parts one at a time.';
const DISK_FULL = 'The import waits because the disk is full. Nothing was lost. It continues when there is space.';
const DATABASE_AWAY = 'The import waits for the database. Nothing was lost. It continues when the database is back.';
const FILES_GONE =
  'The import stopped: its files are not here any longer, for instance after a backup was restored. What was read by then stands. Import the files again; nothing comes in twice.';
const BATCH_MESSAGES = 250;
const BATCH_BYTES = 3 * 1024 * 1024;

/** The name that a file of an import has on disk: its place in the import, from 0. Its own name is kept in the database. */
export function uploadName(position: number): string {
  return String(position).padStart(7, '0');
}

const importRow = z.object({
  id: z.number(),
  mailbox_id: z.number(),
  address: z.string(),
  state: z.string(),
  created: z.number(),
  cancel_asked: z.boolean(),
  file_names: z.array(z.string()),
  interruptions: z.number(),
});
type ImportRow = z.infer<typeof importRow>;

/**
 * Runs an import to its end: reads its files, stores the messages in batches, decides them. Safe to run again after a
 * crash: what was stored is recognised, and the report keeps what was first said of each message.
 */
export async function runImport(database: Database, blobs: Sources, uploads: string, importId: number): Promise<void> {
  const db = database.worker;
  const rows = await rowsOf(
    db,
    importRow,
    sql`UPDATE imports i SET state = 'running', message = '', started_at = coalesce(i.started_at, now()), interruptions = i.interruptions + (i.state = 'running')::int FROM mailboxes m
    WHERE i.id = ${importId} AND i.state IN ('queued', 'running') AND m.id = i.mailbox_id
    RETURNING i.id, i.mailbox_id, m.address, i.state, (extract(epoch FROM i.created_at) * 1000)::float8 AS created, i.cancel_asked, i.file_names, i.interruptions`,
  );
  const row = rows[0];
  if (!row) return;
  const folder = join(uploads, String(importId));
  if (row.interruptions >= MOST_INTERRUPTIONS) {
    await noteMailImport(db, importId);
    await db
      .update(imports)
      .set({ state: 'failed', finishedAt: sql`now()`, message: ENDED_TWICE })
      .where(eq(imports.id, importId));
    await rm(folder, { recursive: true, force: true });
    return;
  }
  if (!existsSync(folder)) {
    await db
      .update(imports)
      .set({ state: 'failed', finishedAt: sql`now()`, message: FILES_GONE })
      .where(eq(imports.id, importId));
    return;
  }
  try {
    const cancelled = (await readFiles(database, blobs, folder, row)) || (await decideImported(database, blobs, importId));
    await noteMailImport(db, importId);
    await db
      .update(imports)
      .set({
        state: cancelled ? 'cancelled' : 'done',
        phase: 'done',
        finishedAt: sql`now()`,
        message: cancelled ? 'Cancelled; what was read by then stands.' : '',
      })
      .where(eq(imports.id, importId));
    await rm(folder, { recursive: true, force: true });
  } catch (error) {
    if (error instanceof DiskFull || isOutage(error)) {
      await waitForRoom(db, importId, error instanceof DiskFull ? DISK_FULL : DATABASE_AWAY);
      throw error;
    }
    const message = `The import stopped: ${error instanceof Error ? error.message : String(error)} What was read by then stands; importing the file again goes on from there.`;
    await noteMailImport(db, importId);
    await db
      .update(imports)
      .set({ state: 'failed', finishedAt: sql`now()`, message: message.slice(0, 1000) })
      .where(eq(imports.id, importId));
    throw error;
  }
}

/** Back in the queue, from which it is taken up again every minute. A database that is away is asked at the next start, too. */
async function waitForRoom(db: Db, importId: number, message: string): Promise<void> {
  await db
    .execute(sql`UPDATE imports SET state = 'queued', message = ${message} WHERE id = ${importId} AND state = 'running'`)
    .catch(() => undefined);
}

/** @returns true when it was cancelled */
async function readFiles(database: Database, blobs: Sources, folder: string, row: ImportRow): Promise<boolean> {
  const place: SightingPlace = {
    mailboxId: row.mailbox_id,
    folder: 'imported',
    importId: row.id,
    arrivedAt: row.created,
  };
  const { compiled } = await liveRulebook(database);
  const sink = new BatchSink(
    async (messages) => readMessages(blobs, messages, row, compiled, await loadReaders(database.worker, row.mailbox_id)),
    (batch) => storeBatch(database.worker, blobs, batch, place, compiled).then(() => undefined),
  );
  let readBytes = 0;
  let position = 0;
  for (const file of (await readdir(folder)).sort()) {
    const path = join(folder, file);
    const size = (await stat(path)).size;
    const before = readBytes;
    const name = row.file_names[Number(file)] ?? file;
    for await (const found of readMailFile(path, name, { onBytes: (bytes) => (readBytes += bytes) })) {
      position += 1;
      const full = await takeFound(database, sink, found, position, row);
      if (full && (await noteProgress(database, row.id, Math.min(readBytes, before + size)))) {
        await sink.flush();
        return true;
      }
    }
    readBytes = before + size;
  }
  await sink.flush();
  return noteProgress(database, row.id, readBytes);
}

/** @returns true when a batch went out */
async function takeFound(database: Database, sink: BatchSink, found: Found, position: number, row: ImportRow): Promise<boolean> {
  if ('message' in found) return sink.add({ ...found.message, position });
  const problems = JSON.stringify([{ code: 'unreadable', message: found.problem.reason }]);
  await database.worker.execute(
    sql`INSERT INTO import_items (import_id, position, file, result, problems) VALUES (${row.id}, ${position}, ${found.problem.file}, 'unreadable', ${problems}::jsonb) ON CONFLICT DO NOTHING`,
  );
  return true;
}

async function readMessages(
  sources: Sources,
  messages: readonly PlacedMessage[],
  row: ImportRow,
  rulebook: CompiledRulebook,
  readers: MailboxReaders,
): Promise<ReadMessage[]> {
  const receiver = receiverOf(rulebook.ownDomains, row.address, null);
  const read = await sources.read(messages.map(({ raw, envelope }) => ({ raw, options: { arrivedAt: row.created, envelope, receiver } })));
  return messages.flatMap((message, at) => {
    const facts = read[at];
    return facts ? [asRead(message, fromForm(withCompanyAuthor(facts, rulebook.isPublicProvider), rulebook), readers)] : [];
  });
}

function asRead(message: PlacedMessage, facts: EmailFacts, readers: MailboxReaders): ReadMessage {
  if (message.cutBytes > 0) {
    facts.problems.push({
      code: 'shortened',
      message: `The message is longer than the limit; its last ${message.cutBytes} bytes were left away.`,
    });
  }
  return { raw: message.raw, facts, file: message.file, position: message.position, ownerIds: ownersIn(readers, facts) };
}

const progressRow = z.object({ cancel_asked: z.boolean() });

/** @returns true when cancelling was asked for */
async function noteProgress(database: Database, importId: number, readBytes: number): Promise<boolean> {
  const rows = await rowsOf(
    database.worker,
    progressRow,
    sql`UPDATE imports SET read_bytes = ${readBytes} WHERE id = ${importId} RETURNING cancel_asked`,
  );
  return rows[0]?.cancel_asked ?? true;
}

async function decideImported(database: Database, blobs: Sources, importId: number): Promise<boolean> {
  await database.worker.update(imports).set({ phase: 'deciding' }).where(eq(imports.id, importId));
  let cancelAsked = false;
  const report = await runDecisions(database, blobs, 'undecided', {
    isCancelled: () => cancelAsked,
    onProgress: async ({ done, total }) => {
      const rows = await rowsOf(
        database.worker,
        progressRow,
        sql`UPDATE imports SET counts = jsonb_build_object('decided', ${done}::int, 'toDecide', ${total}::int) WHERE id = ${importId} RETURNING cancel_asked`,
      );
      cancelAsked = rows[0]?.cancel_asked ?? true;
    },
  });
  if (!report.cancelled) await followLateActivity(database, blobs);
  return report.cancelled;
}

type PlacedMessage = FoundMessage & { position: number };

/** Collects messages; while one full batch is stored, the next one is read. */
class BatchSink {
  private batch: PlacedMessage[] = [];
  private bytes = 0;
  private underWay: Promise<void> = Promise.resolve();

  constructor(
    private readonly read: (messages: readonly PlacedMessage[]) => Promise<ReadMessage[]>,
    private readonly store: (batch: ReadMessage[]) => Promise<void>,
  ) {}

  async add(message: PlacedMessage): Promise<boolean> {
    this.batch.push(message);
    this.bytes += message.raw.length;
    if (this.batch.length < BATCH_MESSAGES && this.bytes < BATCH_BYTES) return false;
    await this.send();
    return true;
  }

  async flush(): Promise<void> {
    if (this.batch.length > 0) await this.send();
    await this.underWay;
  }

  private async send(): Promise<void> {
    const reading = this.read(this.batch);
    this.batch = [];
    this.bytes = 0;
    const before = this.underWay;
    this.underWay = before.then(() => reading).then(this.store);
    // A failure is thrown by the next await of it; this only keeps it from counting as unhandled until then.
    this.underWay.catch(() => undefined);
    await before;
  }
}
