import { z } from 'zod';
import { json, moment, rowsOf } from '../../base/db/rows';
import { outcome } from '@fulvet/contract';
import { Refusal, isRefusal, notFound } from '../../base/refusal';
import type { ImportRun } from '@fulvet/contract';
import { addressKey } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { createWriteStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Tx } from '../../base/db/database';
import type { Handlers } from '../../base/handler';
import { cancelWork, workAbout } from '../../base/work';
import { uploadName } from './importRun';
import { openImport, queueImport } from './importMailbox';

const MAX_FILES = 100_000;
const MOST_DROPPED = 16 * 1024 * 1024;

async function importRun(tx: Tx, id: number): Promise<ImportRun | Refusal> {
  const [run] = await importRuns(tx, sql`i.id = ${id}`, 1);
  if (!run) return notFound('import');
  return run;
}

/** Names of files tell what lies in them: they are for who imported them, and who uses the mailbox. */
const namesFiles = sql`(fulvet_acting_user() IN (i.user_id, m.owner_id) OR EXISTS (SELECT FROM mailbox_users w WHERE w.mailbox_id = m.id AND w.user_id = fulvet_acting_user()))`;

const importRow = z.object({
  id: z.number(),
  mailbox: z.string(),
  file_names: z.array(z.string()),
  state: z.enum(['failed', 'open', 'queued', 'running', 'done', 'cancelled']),
  phase: z.enum(['reading', 'deciding']),
  total_bytes: z.number(),
  done: z.number(),
  total: z.number(),
  message: z.string(),
  created_at: moment,
  started_at: moment.nullable(),
  finished_at: moment.nullable(),
  new: z.number(),
  other: z.number(),
  known: z.number(),
  unreadable: z.number(),
  problems: z.number(),
  undo: z.number().nullable(),
});

async function importRuns(tx: Tx, where: ReturnType<typeof sql>, limit: number): Promise<ImportRun[]> {
  const rows = await rowsOf(
    tx,
    importRow,
    sql`SELECT i.id, m.address AS mailbox, CASE WHEN ${namesFiles} THEN i.file_names[1:50] ELSE '{}' END AS file_names, w.state, w.phase, i.total_bytes, w.done, w.total, w.message, w.created_at, w.started_at, w.finished_at, n.*,
      (SELECT u.id FROM undo_log u WHERE u.kind = 'mailImport' AND u.undone_at IS NULL AND u.payload @> jsonb_build_object('importId', i.id)) AS undo
    FROM imports i JOIN work w ON w.id = i.work_id JOIN mailboxes m ON m.id = i.mailbox_id
    LEFT JOIN LATERAL (SELECT count(*) FILTER (WHERE result = 'new')::int AS new, count(*) FILTER (WHERE result = 'other sighting')::int AS other, count(*) FILTER (WHERE result = 'known')::int AS known, count(*) FILTER (WHERE result = 'unreadable')::int AS unreadable, count(*) FILTER (WHERE problems <> '[]'::jsonb)::int AS problems FROM import_items x WHERE x.import_id = i.id) n ON true
    WHERE ${where} ORDER BY w.created_at DESC, i.id DESC LIMIT ${limit}`,
  );
  return rows.map((row) => ({
    id: row.id,
    mailbox: row.mailbox,
    files: row.file_names,
    state: row.state,
    phase: row.state === 'done' ? 'done' : row.phase,
    totalBytes: row.total_bytes,
    readBytes: row.phase === 'reading' ? row.done : row.total_bytes,
    counts: {
      new: row.new,
      otherSighting: row.other,
      known: row.known,
      unreadable: row.unreadable,
      withProblems: row.problems,
      decided: row.phase === 'deciding' ? row.done : 0,
      toDecide: row.phase === 'deciding' ? row.total : 0,
    },
    message: row.message,
    createdAt: row.created_at,
    startedAt: row.started_at,
    finishedAt: row.finished_at,
    undo: row.undo,
  }));
}

const positionRow = z.object({ position: z.number() });

const importItemRow = z.object({
  position: z.number(),
  file: z.string(),
  result: z.enum(['known', 'unreadable', 'new', 'other sighting']),
  email_id: z.number().nullable(),
  outcome: outcome.nullable(),
  problems: json<{ code: string; message: string }[]>(),
  total: z.number(),
});

export const importRoutes: Pick<
  Handlers,
  'listImports' | 'createImport' | 'putImportFile' | 'startImport' | 'getImport' | 'listImportItems' | 'cancelImport'
> = {
  listImports: async ({ user, services }) =>
    services.database.as(user.id, async (tx) => ({ imports: await importRuns(tx, sql`true`, 50) })),

  createImport: async ({ user, body, services }) => {
    const address = addressKey(body.mailbox, { tagsTellApart: true })?.key ?? body.mailbox.toLowerCase();
    return services.database.as(user.id, async (tx) => {
      const id = await openImport(tx, user, address);
      return isRefusal(id) ? id : importRun(tx, id);
    });
  },

  putImportFile: async ({ user, params, query, services, req }) => {
    const position = await services.database.as(user.id, async (tx) => {
      const rows = await rowsOf(
        tx,
        positionRow,
        sql`UPDATE imports i SET file_names = file_names || ${query.name}::text WHERE id = ${params.id} AND EXISTS (SELECT FROM work w WHERE w.id = i.work_id AND w.state = 'open') AND cardinality(file_names) < ${MAX_FILES} RETURNING cardinality(file_names) - 1 AS position`,
      );
      return rows[0]?.position;
    });
    if (position === undefined)
      return new Refusal('conflict', 'not-open', 'This import takes no more files: it was started, or it is not yours.');
    const folder = join(services.uploads, String(params.id));
    await mkdir(folder, { recursive: true, mode: 0o700 });
    const room = await services.uploadQuota.room(services.database, user, folder);
    if (isRefusal(room)) return room;
    if (Number(req.headers['content-length'] ?? 0) > room) return services.uploadQuota.tooLarge(room);
    let bytes = 0;
    const limit = new Transform({
      transform(chunk: Buffer, _encoding, done) {
        bytes += chunk.length;
        services.uploadQuota.count(user, chunk.length);
        // A little more is read and dropped, so that the sender gets to hear the answer.
        if (bytes > room + MOST_DROPPED) done(new Error('the file is far larger than what may be uploaded'));
        else if (bytes > room) done();
        else done(null, chunk);
      },
    });
    try {
      await pipeline(req, limit, createWriteStream(join(folder, uploadName(position)), { mode: 0o600 }));
      if (bytes > room) {
        await rm(join(folder, uploadName(position)), { force: true });
        return services.uploadQuota.tooLarge(room);
      }
    } catch (error) {
      await rm(join(folder, uploadName(position)), { force: true });
      if (bytes > room) return services.uploadQuota.tooLarge(room);
      throw error;
    } finally {
      services.uploadQuota.count(user, -bytes);
    }
    await services.database.as(user.id, (tx) =>
      tx.execute(sql`UPDATE imports SET total_bytes = total_bytes + ${bytes} WHERE id = ${params.id}`),
    );
    return { bytes };
  },

  startImport: async ({ user, params, services }) => {
    const run = await services.database.as(user.id, async (tx) => {
      const isQueued = await queueImport(tx, params.id);
      const found = await importRun(tx, params.id);
      if (isRefusal(found)) return found;
      if (!isQueued)
        return new Refusal(
          'conflict',
          'not-open',
          found.files.length === 0 ? 'The import has no files yet.' : 'The import was started already.',
        );
      return found;
    });
    if (isRefusal(run)) return run;
    await services.jobs.importMail(params.id);
    return run;
  },

  getImport: ({ user, params, services }) => services.database.as(user.id, (tx) => importRun(tx, params.id)),

  listImportItems: async ({ user, params, query, services }) =>
    services.database.as(user.id, async (tx) => {
      const refused = await importRun(tx, params.id);
      if (isRefusal(refused)) return refused;
      const where = sql.join(
        [
          sql`i.import_id = ${params.id}`,
          ...(query.result ? [sql`i.result = ${query.result}`] : []),
          ...(query.problems ? [sql`i.problems <> '[]'::jsonb`] : []),
        ],
        sql` AND `,
      );
      const rows = await rowsOf(
        tx,
        importItemRow,
        sql`
        SELECT i.position, CASE WHEN x.names_files THEN i.file ELSE '' END AS file, i.result, i.email_id, e.outcome, i.problems, count(*) OVER ()::int AS total FROM import_items i JOIN (SELECT i.id, ${namesFiles} AS names_files FROM imports i JOIN mailboxes m ON m.id = i.mailbox_id) x ON x.id = i.import_id LEFT JOIN emails e ON e.id = i.email_id WHERE ${where} ORDER BY i.position LIMIT ${query.limit} OFFSET ${query.offset}`,
      );
      return {
        items: rows.map((row) => ({
          position: row.position,
          file: row.file,
          result: row.result,
          emailId: row.email_id,
          outcome: row.outcome,
          problems: row.problems,
        })),
        total: rows[0]?.total ?? 0,
      };
    }),

  cancelImport: async ({ user, params, services }) => {
    const result = await services.database.as(user.id, async (tx) => {
      const workId = await workAbout(tx, 'import', params.id);
      const unstarted =
        workId !== null && (await cancelWork(tx, workId, { states: ['open'], message: 'Cancelled before it was started.' }));
      return { run: await importRun(tx, params.id), unstarted };
    });
    if (isRefusal(result)) return result;
    const { run, unstarted } = result;
    if (unstarted) await rm(join(services.uploads, String(params.id)), { recursive: true, force: true });
    return run;
  },
};
