import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Template, User } from '@fulvet/contract';
import type { Tx } from '../base/db/database';
import { rowsOf } from '../base/db/rows';
import { Refusal } from '../base/refusal';
import { writingRightsOf } from './senders/queries';

const memberRow = z.object({ isIn: z.boolean() });

const NO_TEAM = new Refusal('unfit', 'bad-input', 'Choose the team that finds it.', { teamId: 'is needed' });

/**
 * Who has the right shares with everyone and with teams that they are in, administrators with anyone.
 *
 * @param what in the plural
 */
export async function demandShareable(
  tx: Tx,
  user: User,
  { scope, teamId }: { scope: Template['scope']; teamId: number | null },
  what: 'templates' | 'documents' | 'series',
): Promise<Refusal | null> {
  if (scope === 'own') return null;
  if (!(await writingRightsOf(tx, user.id)).mayShare)
    return new Refusal(
      'forbidden',
      'may-not-share',
      `Your workspace lets you keep ${what} for yourself. Ask a manager of the team, or an administrator, to share this one.`,
      { scope: 'may not be shared by you' },
    );
  if (scope === 'all') return null;
  if (teamId === null) return NO_TEAM;
  if (user.role === 'admin') return null;
  const [member] = await rowsOf(
    tx,
    memberRow,
    sql`SELECT EXISTS (SELECT FROM team_members WHERE team_id = ${teamId} AND user_id = ${user.id}) AS "isIn"`,
  );
  return member?.isIn
    ? null
    : new Refusal('forbidden', 'may-not-share', `You share ${what} with teams that you are in. Choose one of them.`, {
        teamId: 'is not a team of yours',
      });
}
