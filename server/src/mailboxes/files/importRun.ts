import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { fromForm, receiverOf, withCompanyAuthor } from '@fulvet/core';
import type { CompiledRulebook, EmailFacts } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { existsSync } from 'node:fs';
import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Sources } from '../../base/reading/sources';
import type { Database } from '../../base/db/database';
import { Cancelled, MOST_INTERRUPTIONS, WorkWaits } from '../../base/work';
import type { Work, WorkTexts } from '../../base/work';
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

const ENDED_TWICE =
  'The import stopped: the server ended twice while it read these files. What was read by then stands. Divide the files, and import the parts one at a time.';
const DISK_FULL = 'The import waits because the disk is full. Nothing was lost. It continues when there is space.';
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
  created: z.number(),
  file_names: z.array(z.string()),
  total_bytes: z.number(),
});
type ImportRow = z.infer<typeof importRow>;

/**
 * Runs an import to its end: reads its files, stores the messages in batches, decides them. Safe to run again after a
 * crash: what was stored is recognised, and the report keeps what was first said of each message.
 */
export async function runImport(database: Database, blobs: Sources, uploads: string, importId: number, work: Work): Promise<void> {
  const db = database.worker;
  const [row] = await rowsOf(
    db,
    importRow,
    sql`SELECT i.id, i.mailbox_id, m.address, (extract(epoch FROM w.created_at) * 1000)::float8 AS created, i.file_names, i.total_bytes
      FROM imports i JOIN work w ON w.id = i.work_id JOIN mailboxes m ON m.id = i.mailbox_id WHERE i.id = ${importId}`,
  );
  if (!row) return;
  const folder = join(uploads, String(importId));
  if (!existsSync(folder)) throw new FilesGone(FILES_GONE);
  try {
    await readFiles(database, blobs, folder, row, work);
    await decideImported(database, blobs, work);
    await noteMailImport(db, importId);
    await work.finish();
  } catch (error) {
    throw error instanceof DiskFull ? new WorkWaits(DISK_FULL, { cause: error }) : error;
  }
}

class FilesGone extends Error {}

/** What is said of an import that did not come to its end. */
export const IMPORT_TEXTS: WorkTexts = {
  cancelled: 'Cancelled; what was read by then stands.',
  interrupted: ENDED_TWICE,
  failed: (error) =>
    error instanceof FilesGone
      ? error.message
      : `The import stopped: ${error instanceof Error ? error.message : String(error)} What was read by then stands; importing the file again goes on from there.`,
};

/** After an import ended, however it did: its files are of no more use unless it is to be started again. */
export async function endImport(database: Database, uploads: string, importId: number): Promise<void> {
  const [ended] = await rowsOf(
    database.worker,
    endedRow,
    sql`SELECT w.state, w.interruptions FROM imports i JOIN work w ON w.id = i.work_id WHERE i.id = ${importId} AND w.state IN ('done', 'cancelled', 'failed')`,
  );
  if (!ended) return;
  if (ended.state !== 'failed' || ended.interruptions >= MOST_INTERRUPTIONS)
    await rm(join(uploads, String(importId)), { recursive: true, force: true });
}

const endedRow = z.object({ state: z.enum(['done', 'cancelled', 'failed']), interruptions: z.number() });

/** @throws when it was cancelled; what was read by then is stored */
async function readFiles(database: Database, blobs: Sources, folder: string, row: ImportRow, work: Work): Promise<void> {
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
      if (full && (await work.progress(Math.min(readBytes, before + size), row.total_bytes, 'reading'))) {
        await sink.flush();
        throw new Cancelled();
      }
    }
    readBytes = before + size;
  }
  await sink.flush();
  await work.goOn(readBytes, row.total_bytes, 'reading');
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

async function decideImported(database: Database, blobs: Sources, work: Work): Promise<void> {
  let cancelAsked = await work.progress(0, 0, 'deciding');
  const report = await runDecisions(database, blobs, 'undecided', {
    isCancelled: () => cancelAsked,
    onProgress: async ({ done, total }) => {
      cancelAsked = await work.progress(done, total);
    },
  });
  if (report.cancelled) throw new Cancelled();
  await followLateActivity(database, blobs);
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
