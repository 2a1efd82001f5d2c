import { sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { Activity, activityContent, User } from '@fulvet/contract';
import type { Tx } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { demandSeen } from '../seenRecords';
import { activitiesWhere } from './queries';

type Parts = Pick<Services, 'database'>;
type Content = z.output<typeof activityContent>;

/** Clocks differ by so much. */
const AHEAD_MS = 5 * 60_000;

export function logActivity({ database }: Parts, user: User, content: Content): Promise<Activity | Refusal> {
  return database.as(user.id, async (tx) => {
    const refused = await refuse(tx, content);
    if (refused) return refused;
    const [made] = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO activities (kind, at, direction, text, is_private, writer_id) VALUES (${content.kind}, ${content.at}::timestamptz, ${content.direction}, ${content.text}, ${content.isPrivate}, ${user.id}) RETURNING id`,
    );
    await addRecords(tx, made?.id ?? 0, content);
    return activityOf(tx, user, made?.id ?? 0);
  });
}

export function changeActivity(
  { database }: Parts,
  user: User,
  id: number,
  { revision, content }: { revision: number; content: Content },
): Promise<Activity | Refusal> {
  return database.as(user.id, async (tx) => {
    const refused = await refuse(tx, content);
    if (refused) return refused;
    const before = await activityOf(tx, user, id);
    if (isRefusal(before)) return before;
    if (!before.isMine) return new Refusal('forbidden', 'not-yours', `${before.writer} wrote this down, and alone can change it.`);
    const changed = await rowsOf(
      tx,
      idRow,
      sql`UPDATE activities SET kind = ${content.kind}, at = ${content.at}::timestamptz, direction = ${content.direction}, text = ${content.text}, is_private = ${content.isPrivate}, revision = revision + 1 WHERE id = ${id} AND revision = ${revision} RETURNING id`,
    );
    if (changed.length === 0)
      return new Refusal(
        'conflict',
        'changed-meanwhile',
        'This was changed in another window. Nothing was saved: copy your text, then load the page again.',
      );
    const said = JSON.stringify({ kind: before.kind, at: before.at, direction: before.direction, text: before.text });
    await tx.execute(
      sql`INSERT INTO activity_changes (activity_id, was_private, before) VALUES (${id}, ${before.isPrivate}, ${said}::jsonb)`,
    );
    // Records that its writer does not see any more stay.
    await tx.execute(sql`DELETE FROM activity_records WHERE activity_id = ${id}`);
    await addRecords(tx, id, content);
    return activityOf(tx, user, id);
  });
}

export function removeActivity({ database }: Parts, user: User, id: number, removed: boolean): Promise<Record<string, never> | Refusal> {
  return database.as(user.id, async (tx) => {
    const rows = await rowsOf(
      tx,
      idRow,
      sql`UPDATE activities SET removed_at = ${removed ? sql`coalesce(removed_at, now())` : sql`NULL`}, revision = revision + 1 WHERE id = ${id} AND writer_id = ${user.id} RETURNING id`,
    );
    return rows.length > 0 ? {} : notFound('entry');
  });
}

async function refuse(tx: Tx, { at, records }: Content): Promise<Refusal | null> {
  if (Date.parse(at) > Date.now() + AHEAD_MS)
    return new Refusal('unfit', 'in-the-future', 'This is still to come. Write down what has been.', { at: 'is in the future' });
  return demandSeen(tx, records);
}

async function addRecords(tx: Tx, id: number, { records }: Content): Promise<void> {
  await tx.execute(
    sql`INSERT INTO activity_records (activity_id, kind, record_id) SELECT DISTINCT ${id}::bigint, r.kind, r.id FROM jsonb_to_recordset(${JSON.stringify(records)}::jsonb) r(kind text, id bigint)`,
  );
}

async function activityOf(tx: Tx, user: User, id: number): Promise<Activity | Refusal> {
  const [found] = await activitiesWhere(tx, user.id, sql`a.id = ${id}`, 1);
  return found ?? notFound('entry');
}
