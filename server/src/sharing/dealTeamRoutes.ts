import { z } from 'zod';
import { idRow, json, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { writeDown } from '../base/audit';
import type { Tx } from '../base/db/database';
import type { Handlers } from '../base/handler';
import { announceDecided } from '../decision/announceDecided';

const dealTeamRow = z.object({ name: z.string(), members: json<{ id: number; name: string }[]>() });

async function teamOfDeal(tx: Tx, id: number): Promise<{ name: string; members: { id: number; name: string }[] } | Refusal> {
  const rows = await rowsOf(
    tx,
    dealTeamRow,
    sql`
    SELECT d.name, coalesce((SELECT json_agg(json_build_object('id', u.id, 'name', u.name) ORDER BY u.name) FROM deal_team t JOIN users u ON u.id = t.user_id WHERE t.deal_id = d.id), '[]') AS members FROM deals d WHERE d.id = ${id}`,
  );
  if (!rows[0]) return notFound('deal');
  return rows[0];
}

const dealRow = z.object({ owner_id: z.number().nullable() });

/** Who is on a deal's team can come to read its mail: its owner says who, or a manager; an administrator does for others. */
async function demandRight(tx: Tx, user: User, dealId: number, joins: boolean): Promise<Refusal | null> {
  if (user.role === 'manager' || (user.role === 'admin' && !joins)) return null;
  const rows = await rowsOf(tx, dealRow, sql`SELECT owner_id FROM deals WHERE id = ${dealId}`);
  if (rows[0]?.owner_id === user.id) return null;
  return new Refusal(
    'forbidden',
    'not-yours',
    'The owner of the deal or a manager says who is on its team. Nothing was changed; ask one of them.',
  );
}

export const dealTeamRoutes: Pick<Handlers, 'getDealTeam' | 'setDealTeam'> = {
  getDealTeam: async ({ user, params, services }) => {
    const team = await services.database.as(user.id, (tx) => teamOfDeal(tx, params.id));
    return isRefusal(team) ? team : { members: team.members };
  },

  setDealTeam: ({ user, params, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const before = await teamOfDeal(tx, params.id);
      if (isRefusal(before)) return before;
      const refused = await demandRight(
        tx,
        user,
        params.id,
        body.members.includes(user.id) && !before.members.some((member) => member.id === user.id),
      );
      if (isRefusal(refused)) return refused;
      const mail = await rowsOf(
        tx,
        idRow,
        sql`SELECT email_id AS id FROM filings WHERE kind = 'deal' AND record_id = ${params.id} ORDER BY email_id DESC LIMIT 200`,
      );
      const told = mail.map((email) => email.id);
      await announceDecided(tx, told);
      await tx.execute(sql`DELETE FROM deal_team WHERE deal_id = ${params.id} AND NOT user_id = ANY(${sql.param(body.members)}::bigint[])`);
      await tx.execute(
        sql`INSERT INTO deal_team (deal_id, user_id) SELECT ${params.id}::bigint, id FROM users WHERE id = ANY(${sql.param(body.members)}::bigint[]) AND active ON CONFLICT DO NOTHING`,
      );
      const team = await teamOfDeal(tx, params.id);
      if (isRefusal(team)) return team;
      const deals = await rowsOf(tx, dealRow, sql`SELECT owner_id FROM deals WHERE id = ${params.id}`);
      const ownerId = deals[0]?.owner_id ?? null;
      await writeDown(tx, user, {
        kind: 'share',
        about: `the team of the deal ${team.name} is ${team.members.map((member) => member.name).join(', ') || 'nobody'}`,
        ...(ownerId === null ? {} : { subjectId: ownerId }),
      });
      await announceDecided(tx, told);
      return { members: team.members };
    }),
};
