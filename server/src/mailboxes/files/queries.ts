import { z } from 'zod';
import { json, moment, rowsOf } from '../../base/db/rows';
import { outcome } from '@fulvet/contract';
import type { Refusal } from '../../base/refusal';
import { notFound } from '../../base/refusal';
import type { ImportItem, ImportRun } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';

const MAX_FILES = 100_000;

export async function importRun(tx: Tx, id: number): Promise<ImportRun | Refusal> {
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

const MOST_LISTED = 50;

/** The newest imports that the acting member may see. */
export const newestImports = (tx: Tx): Promise<ImportRun[]> => importRuns(tx, sql`true`, MOST_LISTED);

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

/** Notes one more file of an import that still takes files; says its place among them, null where it takes none. */
export async function addImportFile(tx: Tx, importId: number, name: string): Promise<number | null> {
  const [file] = await rowsOf(
    tx,
    positionRow,
    sql`UPDATE imports i SET file_names = file_names || ${name}::text WHERE id = ${importId} AND EXISTS (SELECT FROM work w WHERE w.id = i.work_id AND w.state = 'open') AND cardinality(file_names) < ${MAX_FILES} RETURNING cardinality(file_names) - 1 AS position`,
  );
  return file?.position ?? null;
}

export async function addImportBytes(tx: Tx, importId: number, bytes: number): Promise<void> {
  await tx.execute(sql`UPDATE imports SET total_bytes = total_bytes + ${bytes} WHERE id = ${importId}`);
}

interface ImportItemsAsked {
  result?: string | undefined;
  /** Only those that had problems. */
  problems?: 'yes' | undefined;
  limit: number;
  offset: number;
}

/** What became of each email of an import, in order, as far as one page goes. */
export async function importItems(
  tx: Tx,
  importId: number,
  { result, problems, limit, offset }: ImportItemsAsked,
): Promise<{ items: ImportItem[]; total: number }> {
  const where = sql.join(
    [sql`i.import_id = ${importId}`, ...(result ? [sql`i.result = ${result}`] : []), ...(problems ? [sql`i.problems <> '[]'::jsonb`] : [])],
    sql` AND `,
  );
  const rows = await rowsOf(
    tx,
    importItemRow,
    sql`SELECT i.position, CASE WHEN x.names_files THEN i.file ELSE '' END AS file, i.result, i.email_id, e.outcome, i.problems, count(*) OVER ()::int AS total FROM import_items i JOIN (SELECT i.id, ${namesFiles} AS names_files FROM imports i JOIN mailboxes m ON m.id = i.mailbox_id) x ON x.id = i.import_id LEFT JOIN emails e ON e.id = i.email_id WHERE ${where} ORDER BY i.position LIMIT ${limit} OFFSET ${offset}`,
  );
  const items = rows.map(({ total: _, email_id: emailId, ...row }) => ({ ...row, emailId }));
  return { items, total: rows[0]?.total ?? 0 };
}
