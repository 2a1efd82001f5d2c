import { idRow, moment, rowsOf } from './db/rows';
import { UNDO_KINDS } from '@fulvet/contract';
import type { UndoKind, Undone, UndoStep, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from './db/database';
import { isRefusal, notFound, Refusal } from './refusal';
import type { Services } from './services';

const MOST_SHOWN = 100;

/** What takes back the steps of a kind. Its use case stands beside it, notes the step, and says what it needs to know. */
export interface Undoer<Payload = unknown> {
  kind: UndoKind;
  payload: z.ZodType<Payload>;
  /** What is for administrators to undo, as a sentence; missing where a step is its doer's. */
  forAdministrators?: string;
  /**
   * Takes it back as far as nothing was built on it; gives back a refusal, and changes nothing, where it cannot.
   *
   * @param at when the step was done, as the database writes it: that of its transaction
   */
  undo: (services: Services, doer: User, payload: Payload, at: string) => Promise<Undone | Refusal>;
}

export interface Step<Payload> {
  summary: string;
  payload: Payload;
}

/** Notes a step that can be undone, in the transaction that does it. @returns its id */
export async function noteStep<Payload>(
  tx: Tx,
  userId: number,
  undoer: Undoer<Payload>,
  { summary, payload }: Step<Payload>,
): Promise<number> {
  const rows = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO undo_log (user_id, kind, summary, payload) VALUES (${userId}, ${undoer.kind}, ${summary}, ${JSON.stringify(payload)}::jsonb) RETURNING id`,
  );
  return rows[0]?.id ?? 0;
}

/** Marks the steps that were undone by another way than the log. @param of what their payload says */
export async function markUndone(tx: Tx, userId: number, kind: UndoKind, of: Record<string, unknown>): Promise<void> {
  await tx.execute(
    sql`UPDATE undo_log SET undone_at = now(), undone_by = ${userId} WHERE kind = ${kind} AND payload @> ${JSON.stringify(of)}::jsonb AND undone_at IS NULL`,
  );
}

const stepRow = z.object({
  id: z.number(),
  kind: z.enum(UNDO_KINDS),
  summary: z.string(),
  at: moment,
  by: z.string(),
  undone: z.boolean(),
  payload: z.unknown(),
  written: z.string(),
});

const STEPS = sql`SELECT s.id, s.kind, s.summary, s.at, s.undone_at IS NOT NULL AS undone, s.payload, s.at::text AS written, u.name AS by FROM undo_log s JOIN users u ON u.id = s.user_id`;

/** The steps that the reader may undo, the latest first. */
export async function stepsOf(tx: Tx): Promise<UndoStep[]> {
  const rows = await rowsOf(tx, stepRow, sql`${STEPS} ORDER BY s.id DESC LIMIT ${MOST_SHOWN}`);
  return rows.map(({ id, kind, summary, at, by, undone }) => ({ id, kind, summary, at, by, undone }));
}

/** Undoes a step by the undoer of its kind. */
export async function undoStep(services: Services, doer: User, id: number, undoers: readonly Undoer[]): Promise<Undone | Refusal> {
  const rows = await services.database.as(doer.id, (tx) => rowsOf(tx, stepRow, sql`${STEPS} WHERE s.id = ${id}`));
  const [step] = rows;
  const undoer = undoers.find(({ kind }) => kind === step?.kind);
  if (!step || !undoer) return notFound('step');
  if (step.undone) return new Refusal('conflict', 'undone-already', 'This step is undone already.');
  if (undoer.forAdministrators !== undefined && doer.role !== 'admin')
    return new Refusal('forbidden', 'not-allowed', `${undoer.forAdministrators} Nothing was undone.`);
  const undone = await undoer.undo(services, doer, undoer.payload.parse(step.payload), step.written);
  if (isRefusal(undone)) return undone;
  await services.database.as(doer.id, (tx) =>
    tx.execute(
      sql`UPDATE undo_log SET undone_at = coalesce(undone_at, now()), undone_by = coalesce(undone_by, ${doer.id}) WHERE id = ${id}`,
    ),
  );
  return undone;
}
