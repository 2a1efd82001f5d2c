import { z } from 'zod';
import { idRow, json, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { writeDown } from '../base/audit';
import type { Database, Tx } from '../base/db/database';
import { announceDecided } from '../decision/announceDecided';

/** How many of the newest emails of a deal tell open pages that their readers changed. */
const MOST_TOLD = 200;

const dealTeamRow = z.object({
  name: z.string(),
  ownerId: z.number().nullable(),
  members: json<{ id: number; name: string }[]>(),
});
type DealTeam = z.infer<typeof dealTeamRow>;

/** A deal that the acting member sees, with its owner and its team. */
export async function teamOfDeal(tx: Tx, id: number): Promise<DealTeam | Refusal> {
  const [team] = await rowsOf(
    tx,
    dealTeamRow,
    sql`
    SELECT d.name, d.owner_id AS "ownerId", coalesce((SELECT json_agg(json_build_object('id', u.id, 'name', u.name) ORDER BY u.name) FROM deal_team t JOIN users u ON u.id = t.user_id WHERE t.deal_id = d.id), '[]') AS members FROM deals d WHERE d.id = ${id}`,
  );
  return team ?? notFound('deal');
}

async function newestEmails(tx: Tx, dealId: number): Promise<number[]> {
  const rows = await rowsOf(
    tx,
    idRow,
    sql`SELECT email_id AS id FROM filings WHERE kind = 'deal' AND record_id = ${dealId} ORDER BY email_id DESC LIMIT ${MOST_TOLD}`,
  );
  return rows.map((row) => row.id);
}

async function storeTeam(tx: Tx, dealId: number, members: readonly number[]): Promise<void> {
  const ids = sql.param([...members]);
  await tx.execute(sql`DELETE FROM deal_team WHERE deal_id = ${dealId} AND NOT user_id = ANY(${ids}::bigint[])`);
  await tx.execute(
    sql`INSERT INTO deal_team (deal_id, user_id) SELECT ${dealId}::bigint, id FROM users WHERE id = ANY(${ids}::bigint[]) AND active ON CONFLICT DO NOTHING`,
  );
}

/** Who is on a deal's team can come to read its mail: its owner says who, or a manager; an administrator does for others. */
function demandRight(user: User, before: DealTeam, members: readonly number[]): Refusal | null {
  const joins = members.includes(user.id) && !before.members.some((member) => member.id === user.id);
  if (user.role === 'manager' || (user.role === 'admin' && !joins) || before.ownerId === user.id) return null;
  return new Refusal(
    'forbidden',
    'not-yours',
    'The owner of the deal or a manager says who is on its team. Nothing was changed; ask one of them.',
  );
}

/** Says who is on the team of a deal. */
export function setDealTeam(
  database: Database,
  user: User,
  dealId: number,
  members: readonly number[],
): Promise<Pick<DealTeam, 'members'> | Refusal> {
  return database.as(user.id, async (tx) => {
    const before = await teamOfDeal(tx, dealId);
    if (isRefusal(before)) return before;
    const refused = demandRight(user, before, members);
    if (isRefusal(refused)) return refused;
    // Those who lose sight of the mail are told, and those who come to see it.
    const emails = await newestEmails(tx, dealId);
    await announceDecided(tx, emails);
    await storeTeam(tx, dealId, members);
    const team = await teamOfDeal(tx, dealId);
    if (isRefusal(team)) return team;
    const names = team.members.map((member) => member.name).join(', ') || 'no one';
    await writeDown(tx, user, {
      kind: 'share',
      about: `the team of the deal ${team.name} is ${names}`,
      ...(team.ownerId === null ? {} : { subjectId: team.ownerId }),
    });
    await announceDecided(tx, emails);
    return { members: team.members };
  });
}
