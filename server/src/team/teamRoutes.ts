import { Refusal, isRefusal } from '../base/refusal';
import type { Rulebook } from '@fulvet/core';
import { RULE_STEPS, leavesOf } from '@fulvet/core';
import type { Handlers } from '../base/handler';
import { storedRulebook } from '../rulebook/liveRulebook';
import { deleteTeam, insertTeam, loadTeams, putTeamMembers, teamOf } from './queries';
import { ownKinds } from '../records/own/ownKinds';

/** Names of teams that a rulebook refers to, in small letters. */
export function teamsIn(rulebook: Rulebook): Set<string> {
  const rules = RULE_STEPS.flatMap((stop) => [...rulebook[stop].rules]);
  return new Set(
    rules.flatMap((rule) => [
      ...(rule.appliesTo.teams ?? []),
      ...(rule.then.do === 'teams' ? rule.then.teams : []),
      ...[...leavesOf(rule.when)].flatMap((leaf) => (leaf.fact === 'team' ? leaf.in : [])),
    ]),
  );
}

export const teamRoutes: Pick<Handlers, 'listTeams' | 'addTeam' | 'setTeamMembers' | 'removeTeam'> = {
  listTeams: async ({ user, services }) => ({ teams: await services.database.as(user.id, (tx) => loadTeams(tx)) }),

  addTeam: ({ user, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const id = await insertTeam(tx, body.name);
      if (id === null) return new Refusal('conflict', 'exists', `There is a team ${body.name} already.`, { name: 'is taken' });
      await putTeamMembers(tx, id, body.members);
      return teamOf(tx, id);
    }),

  setTeamMembers: ({ user, params, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const refused = await teamOf(tx, params.id);
      if (isRefusal(refused)) return refused;
      await putTeamMembers(tx, params.id, body.members);
      return teamOf(tx, params.id);
    }),

  removeTeam: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const result = await teamOf(tx, params.id);
      if (isRefusal(result)) return result;
      const { name } = result;
      const { rulebook } = await storedRulebook(tx);
      if (teamsIn(rulebook).has(name.toLowerCase()))
        return new Refusal('conflict', 'in-use', `Rules in force name the team ${name}. Change them first.`);
      const theirs = (await ownKinds(tx)).find((kind) => kind.seenByTeams.includes(params.id));
      if (theirs)
        return new Refusal('conflict', 'in-use', `${theirs.plural} are seen by the team ${name} alone. Say first who else sees them.`);
      await deleteTeam(tx, params.id);
      return {};
    }),
};
