import { teamMembers, teams as teamsTable } from '../base/db/schema';
import { z } from 'zod';
import { idRow, json, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { Team } from '@fulvet/contract';
import type { Rulebook } from '@fulvet/core';
import { RULE_STOPS, leavesOf } from '@fulvet/core';
import { sql, eq } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { Handlers } from '../base/handler';
import { storedRulebook } from '../rulebook/liveRulebook';

/** Names of teams that a rulebook refers to, in small letters. */
export function teamsIn(rulebook: Rulebook): Set<string> {
  const rules = RULE_STOPS.flatMap((stop) => [...rulebook[stop].rules]);
  return new Set(
    rules.flatMap((rule) => [
      ...(rule.appliesTo.teams ?? []),
      ...(rule.then.do === 'teams' ? rule.then.teams : []),
      ...[...leavesOf(rule.when)].flatMap((leaf) => (leaf.fact === 'team' ? leaf.in : [])),
    ]),
  );
}

async function putMembers(tx: Tx, teamId: number, members: readonly number[]): Promise<void> {
  await tx.execute(
    sql`INSERT INTO team_members (team_id, user_id) SELECT ${teamId}::bigint, u.id FROM users u WHERE u.id = ANY(${sql.param([...members])}::bigint[])`,
  );
}

async function oneTeam(tx: Tx, id: number): Promise<Team | Refusal> {
  const team = (await loadTeams(tx)).find((item) => item.id === id);
  if (!team) return notFound('team');
  return team;
}

const teamRow = z.object({ id: z.number(), name: z.string(), members: json<{ id: number; name: string }[]>() });

async function loadTeams(tx: Tx): Promise<Team[]> {
  const rows = await rowsOf(
    tx,
    teamRow,
    sql`
    SELECT t.id, t.name, coalesce(json_agg(json_build_object('id', u.id, 'name', u.name) ORDER BY u.name) FILTER (WHERE u.id IS NOT NULL), '[]') AS members
    FROM teams t LEFT JOIN team_members m ON m.team_id = t.id LEFT JOIN users u ON u.id = m.user_id GROUP BY t.id ORDER BY lower(t.name)`,
  );
  return rows;
}

export const teamRoutes: Pick<Handlers, 'listTeams' | 'addTeam' | 'setTeamMembers' | 'removeTeam'> = {
  listTeams: async ({ user, services }) => ({ teams: await services.database.as(user.id, (tx) => loadTeams(tx)) }),

  addTeam: ({ user, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const rows = await rowsOf(
        tx,
        idRow,
        sql`INSERT INTO teams (name) VALUES (${body.name}) ON CONFLICT (lower(name)) DO NOTHING RETURNING id`,
      );
      const id = rows[0]?.id;
      if (id === undefined) return new Refusal('conflict', 'exists', `There is a team ${body.name} already.`, { name: 'is taken' });
      await putMembers(tx, id, body.members);
      return oneTeam(tx, id);
    }),

  setTeamMembers: ({ user, params, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const refused = await oneTeam(tx, params.id);
      if (isRefusal(refused)) return refused;
      await tx.delete(teamMembers).where(eq(teamMembers.teamId, params.id));
      await putMembers(tx, params.id, body.members);
      return oneTeam(tx, params.id);
    }),

  removeTeam: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const result = await oneTeam(tx, params.id);
      if (isRefusal(result)) return result;
      const { name } = result;
      const { rulebook } = await storedRulebook(tx);
      if (teamsIn(rulebook).has(name.toLowerCase()))
        return new Refusal('conflict', 'in-use', `Rules in force name the team ${name}. Change them first.`);
      await tx.delete(teamsTable).where(eq(teamsTable.id, params.id));
      return {};
    }),
};
