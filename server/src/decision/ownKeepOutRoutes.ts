import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import type { OwnKeepOut } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Handlers } from '../base/handler';
import type { Jobs } from '../base/services';
import { liveRulebook } from '../rulebook/liveRulebook';
import { outsideValue } from '../rulebook/outsideValue';

const ownKeepOutRow = z.object({ id: z.number(), kind: z.enum(['address', 'domain']), value: z.string(), at: moment });
type OwnKeepOutRow = z.infer<typeof ownKeepOutRow>;

const asAnswer = ({ id, kind, value, at }: OwnKeepOutRow): OwnKeepOut => ({ id, kind, value, at });

const decide = (jobs: Jobs, { kind, value }: Pick<OwnKeepOut, 'kind' | 'value'>): Promise<void> =>
  jobs.decideConcerned(kind === 'address' ? { addresses: [value], domains: [] } : { addresses: [], domains: [value] });

export const ownKeepOutRoutes: Pick<Handlers, 'listOwnKeepOuts' | 'addOwnKeepOut' | 'removeOwnKeepOut'> = {
  listOwnKeepOuts: async ({ user, services }) => {
    const rows = await services.database.as(user.id, (tx) =>
      rowsOf(tx, ownKeepOutRow, sql`SELECT id, kind, value, at FROM own_keep_outs ORDER BY value`),
    );
    return { keepOuts: rows.map(asAnswer) };
  },

  addOwnKeepOut: async ({ user, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const value = outsideValue(body.kind, body.value, compiled, '; mail among ourselves is a matter of the first stop.');
    if (isRefusal(value)) return value;
    const rows = await services.database.as(user.id, (tx) =>
      rowsOf(
        tx,
        ownKeepOutRow,
        sql`INSERT INTO own_keep_outs (user_id, kind, value) VALUES (${user.id}, ${body.kind}, ${value}) ON CONFLICT (user_id, kind, value) DO UPDATE SET value = excluded.value RETURNING id, kind, value, at`,
      ),
    );
    const [row] = rows;
    if (!row) throw new Error('what was kept out is not there');
    await decide(services.jobs, row);
    return asAnswer(row);
  },

  removeOwnKeepOut: async ({ user, params, services }) => {
    const rows = await services.database.as(user.id, (tx) =>
      rowsOf(tx, ownKeepOutRow, sql`DELETE FROM own_keep_outs WHERE id = ${params.id} RETURNING id, kind, value, at`),
    );
    if (!rows[0]) return notFound('entry of yours');
    await decide(services.jobs, rows[0]);
    return {};
  },
};
