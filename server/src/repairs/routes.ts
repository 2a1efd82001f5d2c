import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { sql } from 'drizzle-orm';
import type { Handlers } from '../base/handler';
import { demandEmail } from '../emails/demandEmail';
import { liveRulebook } from '../rulebook/liveRulebook';
import { applyRepair } from './applyRepair';
import { likelyRecords } from './likely';
import { undoRepair } from './undoRepair';

const repairRow = z.object({
  id: z.number(),
  at: moment,
  by: z.string(),
  summary: z.string(),
  emails: z.number(),
  undone: z.boolean(),
  mine: z.boolean(),
});

export const repairRoutes: Pick<Handlers, 'repair' | 'undoRepair' | 'listRepairs' | 'likelyRecords'> = {
  repair: ({ user, body, services }) => applyRepair(services, user, body),

  undoRepair: ({ user, params, services }) => undoRepair(services, user, params.id),

  listRepairs: async ({ user, query, services }) => {
    const about =
      query.email === undefined
        ? sql`true`
        : sql`r.id IN (SELECT p.repair_id FROM pins p JOIN emails o ON o.id = p.email_id JOIN emails e ON e.conversation_id = o.conversation_id WHERE e.id = ${query.email} AND (p.email_id = e.id OR p.reach <> 'email'))`;
    const rows = await services.database.as(user.id, (tx) =>
      rowsOf(
        tx,
        repairRow,
        sql`
        SELECT r.id, r.at, u.name AS by, r.summary, r.emails, r.undone_at IS NOT NULL AS undone, r.user_id = ${user.id} AS mine FROM repairs r JOIN users u ON u.id = r.user_id
        WHERE ${about} ORDER BY r.id DESC LIMIT ${query.limit}`,
      ),
    );
    return { repairs: rows.map((row) => ({ ...row, at: row.at })) };
  },

  likelyRecords: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(
      user.id,
      async (tx) => (await demandEmail(tx, params.id)) ?? { records: await likelyRecords(tx, params.id, user.id, query.text, compiled) },
    );
  },
};
