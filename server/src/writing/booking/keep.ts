import type { MeetingKind, MeetingKindContent, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import { isRefusal, notFound, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import type { KindRow } from './queries';
import { kindsWhere, mayChange, shownKind } from './queries';

type Parts = Pick<Services, 'database'>;

const standing = (id: number) => sql`k.id = ${id} AND k.removed_at IS NULL`;

export async function listKinds({ database }: Parts, user: User): Promise<MeetingKind[]> {
  return (await kindsWhere(database.worker, sql`k.removed_at IS NULL`)).map((row) => shownKind(user, row));
}

/** A kind that the user may change. @returns a refusal otherwise */
async function demandKind(tx: Tx, user: User, id: number): Promise<KindRow | Refusal> {
  const [row] = await kindsWhere(tx, sql`k.id = ${id}`);
  return row && mayChange(user, row) ? row : notFound('kind of meeting');
}

/** Whose time is offered: reps offer their own; others that of members who are there. */
async function demandMembers(tx: Tx, user: User, memberIds: readonly number[]): Promise<Refusal | null> {
  if (user.role === 'rep' && memberIds.some((id) => id !== user.id))
    return new Refusal(
      'forbidden',
      'others-time',
      'You offer your own time. Ask a manager or an administrator to offer that of colleagues.',
    );
  const found = await rowsOf(
    tx,
    idRow,
    sql`SELECT id FROM users WHERE id = ANY(${sql.param([...memberIds])}::bigint[]) AND active AND role <> 'viewer'`,
  );
  if (found.length === new Set(memberIds).size) return null;
  return new Refusal('unfit', 'no-such-member', 'One of these members has left, or only reads. Choose others.', {
    memberIds: 'cannot be met',
  });
}

const columnsOf = ({ name, about, place, needs, memberIds, ...times }: MeetingKindContent) =>
  [name, about, place, JSON.stringify(times), needs, sql.param([...new Set(memberIds)])] as const;

export function createKind({ database }: Parts, user: User, content: MeetingKindContent): Promise<MeetingKind | Refusal> {
  return database.work(async (tx) => {
    const refused = await demandMembers(tx, user, content.memberIds);
    if (refused) return refused;
    const [name, about, place, times, needs, memberIds] = columnsOf(content);
    const [made] = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO meeting_kinds (owner_id, name, about, place, times, needs, member_ids) VALUES (${user.id}, ${name}, ${about}, ${place}, ${times}::jsonb, ${needs}, ${memberIds}::bigint[]) RETURNING id`,
    );
    return shownOf(tx, user, made?.id ?? 0);
  });
}

export function saveKind(
  { database }: Parts,
  user: User,
  id: number,
  { revision, content }: { revision: number; content: MeetingKindContent },
): Promise<MeetingKind | Refusal> {
  return database.work(async (tx) => {
    const row = await demandKind(tx, user, id);
    if (isRefusal(row)) return row;
    // Members who are in it already stay, whoever changes the rest.
    const added = content.memberIds.filter((memberId) => !row.members.some((member) => member.id === memberId));
    const refused = await demandMembers(tx, user, added);
    if (refused) return refused;
    const [name, about, place, times, needs, memberIds] = columnsOf(content);
    const { rowCount } = await tx.execute(
      sql`UPDATE meeting_kinds SET name = ${name}, about = ${about}, place = ${place}, times = ${times}::jsonb, needs = ${needs}, member_ids = ${memberIds}::bigint[], revision = revision + 1
        WHERE id = ${id} AND revision = ${revision}`,
    );
    if (rowCount === 0)
      return new Refusal(
        'conflict',
        'changed-meanwhile',
        'Someone changed this kind of meeting meanwhile. Open it again, and make your change there.',
      );
    return shownOf(tx, user, id);
  });
}

/** Offers no more times of a kind, or again. Links that were sent say that there are none. */
export function removeKind({ database }: Parts, user: User, id: number, removed: boolean): Promise<Refusal | null> {
  return database.work(async (tx) => {
    const row = await demandKind(tx, user, id);
    if (isRefusal(row)) return row;
    await tx.execute(sql`UPDATE meeting_kinds SET removed_at = CASE WHEN ${removed} THEN now() END WHERE id = ${id}`);
    return null;
  });
}

async function shownOf(tx: Tx, user: User, id: number): Promise<MeetingKind | Refusal> {
  const [row] = await kindsWhere(tx, standing(id));
  return row ? shownKind(user, row) : notFound('kind of meeting');
}
