import { MboxSplitter } from '@fulvet/core';
import { makeWorld, Random, writeMail } from '@fulvet/demo';
import { putRulebook, runImport, uploadName, Work } from '@fulvet/server';
import { cautiousRulebook } from '@fulvet/core';
import { mkdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import PostalMime from 'postal-mime';
import { newInstallation, report } from './measure';

/** So many emails that what a program spends on getting warm, on either side, is a small part of it. */
const EMAILS = 12_000;

/** The mailboxes of a made-up world as an mbox; nothing else of the world stays in memory. */
function makeMbox(): Buffer {
  const now = Date.now();
  const random = new Random(7);
  const world = makeWorld(random, now);
  const parts = [...writeMail(world, random, now, EMAILS).mboxes()].flatMap((box) => box.parts);
  return Buffer.concat(parts.filter((part) => part.length < 1_000_000));
}

async function parseAll(mbox: Buffer): Promise<{ messages: number; seconds: number }> {
  const start = performance.now();
  const splitter = new MboxSplitter();
  let messages = 0;
  for (const message of [...splitter.push(mbox), ...splitter.end()]) {
    await PostalMime.parse(message.raw);
    messages += 1;
  }
  return { messages, seconds: (performance.now() - start) / 1000 };
}

/** Ingest of an mbox (parse, identify, thread, decide, store, index) against the MIME parser alone on the same messages. Goal: 0.6 of its speed. */
async function main(): Promise<void> {
  const mbox = makeMbox();

  // Before and after, so that neither what is cold nor what else the machine does counts on one side only.
  const parsedBefore = await parseAll(mbox);

  const { services, remove } = await newInstallation();
  try {
    const { appPool, workerPool } = services.database;
    const user =
      (
        await appPool.query<{ id: number }>(
          "INSERT INTO users (email, name, role) VALUES ('rep@quillmere.example', 'Rep', 'admin') RETURNING id",
        )
      ).rows[0]?.id ?? 0;
    await services.database.as(user, (tx) =>
      putRulebook(
        tx,
        {
          ...cautiousRulebook(['quillmere.example']),
          create: { ...cautiousRulebook([]).create, people: 'contact', after: 'weWrote' },
        },
        'bench',
        user,
      ),
    );
    const mailbox = (
      await workerPool.query<{ id: number }>(
        "INSERT INTO mailboxes (address, owner_id) VALUES ('rep@quillmere.example', $1) RETURNING id",
        [user],
      )
    ).rows[0]?.id;
    const created = await workerPool.query<{ id: number; work_id: number }>(
      `WITH w AS (INSERT INTO work (kind, phase, state) VALUES ('import', 'reading', 'running') RETURNING id)
       INSERT INTO imports (work_id, mailbox_id, user_id, file_names, total_bytes) SELECT w.id, $1, $2, '{bench.mbox}', $3 FROM w RETURNING id, work_id`,
      [mailbox, user, mbox.length],
    );
    const { id: importId = 0, work_id: workId = 0 } = created.rows[0] ?? {};
    await mkdir(join(services.uploads, String(importId)), { recursive: true });
    await writeFile(join(services.uploads, String(importId), uploadName(0)), mbox);
    const ingestStart = performance.now();
    await runImport(services.database, services.blobs, services.uploads, importId, new Work(services.database.worker, workId));
    const ingestSeconds = (performance.now() - ingestStart) / 1000;
    const { messages, seconds } = await parseAll(mbox);
    const parseSeconds = (parsedBefore.seconds + seconds) / 2;
    report('ingest of an mbox', [
      ['messages', `${messages}, ${(mbox.length / 1e6).toFixed(1)} MB`],
      ['MIME parser alone', `${parseSeconds.toFixed(2)} s, ${Math.round(messages / parseSeconds)} a second`],
      ['whole ingest', `${ingestSeconds.toFixed(2)} s, ${Math.round(messages / ingestSeconds)} a second`],
      ['ratio of speeds', `${(parseSeconds / ingestSeconds).toFixed(2)} (goal 0.6)`],
    ]);
  } finally {
    await remove();
  }
}

await main();
