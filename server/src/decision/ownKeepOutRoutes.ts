import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { isRefusal } from '../base/refusal';
import type { OwnKeepOut } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Handlers } from '../base/handler';
import { markUndone, noteStep } from '../base/undoLog';
import { liveRulebook } from '../rulebook/liveRulebook';
import { outsideValue } from '../rulebook/outsideValue';
import { allowAgain, decideKeptOut, undoOwnKeepOut } from './undoOwnKeepOut';

const ownKeepOutRow = z.object({ id: z.number(), kind: z.enum(['address', 'domain']), value: z.string(), at: moment });
type OwnKeepOutRow = z.infer<typeof ownKeepOutRow>;

const asAnswer = ({ id, kind, value, at }: OwnKeepOutRow): OwnKeepOut => ({ id, kind, value, at });

export const ownKeepOutRoutes: Pick<Handlers, 'listOwnKeepOuts' | 'addOwnKeepOut' | 'removeOwnKeepOut'> = {
  listOwnKeepOuts: async ({ user, services }) => {
    const rows = await services.database.as(user.id, (tx) =>
      rowsOf(tx, ownKeepOutRow, sql`SELECT id, kind, value, at FROM own_keep_outs ORDER BY value`),
    );
    return { keepOuts: rows.map(asAnswer) };
  },

  addOwnKeepOut: async ({ user, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const value = outsideValue(body.kind, body.value, compiled, '; internal mail is handled by the Keep out step.');
    if (isRefusal(value)) return value;
    const { row, undo } = await services.database.as(user.id, async (tx) => {
      const [row] = await rowsOf(
        tx,
        ownKeepOutRow.extend({ is_new: z.boolean() }),
        sql`INSERT INTO own_keep_outs (user_id, kind, value) VALUES (${user.id}, ${body.kind}, ${value}) ON CONFLICT (user_id, kind, value) DO UPDATE SET value = excluded.value RETURNING id, kind, value, at, xmax = 0 AS is_new`,
      );
      if (!row) throw new Error('what was kept out is not there');
      const step = { summary: `Keep ${row.value} out of your own mail`, payload: { id: row.id } };
      return { row, undo: row.is_new ? await noteStep(tx, user.id, undoOwnKeepOut, step) : null };
    });
    await decideKeptOut(services.jobs, row);
    return { ...asAnswer(row), undo };
  },

  removeOwnKeepOut: async ({ user, params, services }) => {
    const refused = await allowAgain(services, user.id, params.id);
    if (isRefusal(refused)) return refused;
    await services.database.as(user.id, (tx) => markUndone(tx, user.id, 'ownKeepOut', { id: params.id }));
    return {};
  },
};
