import { emergencies } from '../base/db/schema';
import { z } from 'zod';
import { idRow, moment, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { Emergency, EmergencyRequest, User } from '@fulvet/contract';
import { sql, eq, isNull, and } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import { announce } from '../base/live/changes';
import type { Services } from '../base/services';
import { writeDown } from '../base/audit';

const emergencyRow = z.object({
  id: z.number(),
  owner_id: z.number(),
  owner: z.string(),
  asked_by: z.number(),
  asker: z.string(),
  reason: z.string(),
  hours: z.number(),
  asked_at: moment,
  confirmed_by: z.number().nullable(),
  confirmer: z.string().nullable(),
  until: moment.nullable(),
  ended_at: moment.nullable(),
  over: z.boolean(),
});

/** Emergency readings that the acting user may know of, the latest first. */
export async function emergenciesOf(tx: Tx, which: SQL = sql`true`): Promise<Emergency[]> {
  const rows = await rowsOf(
    tx,
    emergencyRow,
    sql`
    SELECT x.id, x.owner_id, o.name AS owner, x.asked_by, a.name AS asker, x.reason, x.hours, x.asked_at, x.confirmed_by, c.name AS confirmer, x.until, x.ended_at, (x.ended_at IS NOT NULL OR coalesce(x.until < now(), x.asked_at < now() - interval '3 days')) AS over
    FROM emergencies x JOIN users o ON o.id = x.owner_id JOIN users a ON a.id = x.asked_by LEFT JOIN users c ON c.id = x.confirmed_by WHERE ${which} ORDER BY x.id DESC LIMIT 200`,
  );
  return rows.map((row) => ({
    id: row.id,
    owner: { id: row.owner_id, name: row.owner },
    askedBy: { id: row.asked_by, name: row.asker },
    reason: row.reason,
    hours: row.hours,
    askedAt: row.asked_at,
    confirmedBy: row.confirmed_by === null ? null : { id: row.confirmed_by, name: row.confirmer ?? '' },
    until: row.until,
    endedAt: row.ended_at,
    state: row.over ? 'over' : row.confirmed_by === null ? 'asked' : 'open',
  }));
}

const userRow = z.object({ name: z.string() });

/** Asks to read a member's mail. Nothing opens before a second person confirms. */
export function askEmergency({ database }: Services, user: User, order: EmergencyRequest): Promise<Emergency | Refusal> {
  return database.as(user.id, async (tx) => {
    if (order.ownerId === user.id) return new Refusal('conflict', 'own-mail', 'This is your own mail; you read it already.');
    const owners = await rowsOf(tx, userRow, sql`SELECT name FROM users WHERE id = ${order.ownerId}`);
    if (!owners[0]) return notFound('member');
    const rows = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO emergencies (owner_id, asked_by, reason, hours) VALUES (${order.ownerId}, ${user.id}, ${order.reason}, ${order.hours}) RETURNING id`,
    );
    await writeDown(tx, user, {
      kind: 'emergency',
      about: `asked to read the mail of ${owners[0].name} for ${order.hours} hours: ${order.reason}`,
      subjectId: order.ownerId,
    });
    await announce(tx, { kind: 'mail', to: 'everyone', records: [] });
    return emergencyOf(tx, rows[0]?.id ?? 0);
  });
}

/** Days for which whoever gave an account its powers is not confirmed by it. */
const POWER_DAYS = 30;

export async function confirmEmergency({ database }: Services, user: User, id: number): Promise<Emergency | Refusal> {
  const { rowCount: isDependent } = await database.worker.execute(sql`
    SELECT FROM emergencies x JOIN account_powers p ON p.by_id = x.asked_by AND p.user_id = ${user.id} AND p.at > now() - make_interval(days => ${POWER_DAYS}) WHERE x.id = ${id} LIMIT 1`);
  return database.as(user.id, async (tx) => {
    const known = await emergencyOf(tx, id);
    if (isRefusal(known)) return known;
    if (isDependent)
      return new Refusal(
        'forbidden',
        'not-independent',
        `${known.askedBy.name} created your account, or changed its role or password, within the last ${POWER_DAYS} days. Someone else has to confirm.`,
      );
    if (known.askedBy.id === user.id)
      return new Refusal('forbidden', 'same-person', 'It takes two: another administrator or a manager has to confirm what you asked for.');
    if (known.state !== 'asked')
      return new Refusal('conflict', 'over', known.state === 'open' ? 'It is confirmed already.' : 'It is over. Ask again.');
    await tx.execute(
      sql`UPDATE emergencies SET confirmed_by = ${user.id}, confirmed_at = now(), until = now() + make_interval(hours => hours) WHERE id = ${id} AND confirmed_by IS NULL AND ended_at IS NULL`,
    );
    await writeDown(tx, user, {
      kind: 'emergency',
      about: `confirmed that ${known.askedBy.name} reads the mail of ${known.owner.name} for ${known.hours} hours`,
      subjectId: known.owner.id,
    });
    await announce(tx, { kind: 'mail', to: [known.askedBy.id, known.owner.id, user.id], records: [] });
    return emergencyOf(tx, id);
  });
}

export function endEmergency({ database }: Services, user: User, id: number): Promise<Emergency | Refusal> {
  return database.as(user.id, async (tx) => {
    const known = await emergencyOf(tx, id);
    if (isRefusal(known)) return known;
    if (user.role !== 'admin' && user.id !== known.askedBy.id && user.id !== known.owner.id) return notFound('emergency reading');
    if (known.state === 'over') return new Refusal('conflict', 'over', 'It is over already.');
    await tx
      .update(emergencies)
      .set({ endedAt: sql`now()`, endedBy: user.id })
      .where(and(eq(emergencies.id, id), isNull(emergencies.endedAt)));
    await writeDown(tx, user, {
      kind: 'emergency',
      about: `ended the emergency reading of the mail of ${known.owner.name}`,
      subjectId: known.owner.id,
    });
    await announce(tx, { kind: 'mail', to: [known.askedBy.id, known.owner.id, user.id], records: [] });
    return emergencyOf(tx, id);
  });
}

async function emergencyOf(tx: Tx, id: number): Promise<Emergency | Refusal> {
  const [found] = await emergenciesOf(tx, sql`x.id = ${id}`);
  if (!found) return notFound('emergency reading');
  return found;
}
