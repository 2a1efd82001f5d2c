import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { sql } from 'drizzle-orm';
import type { Handlers } from '../base/handler';
import { Refusal } from '../base/refusal';
import { liveRulebook } from '../rulebook/liveRulebook';
import { deskCases } from './deskCases';

const countRow = z.object({ n: z.number() });

export const deskRoutes: Pick<Handlers, 'getDesk' | 'passCase'> = {
  getDesk: async ({ user, query, services }) => {
    if (query.whose === 'all' && user.role !== 'admin')
      return new Refusal('forbidden', 'not-allowed', 'All that waits is for administrators; you see what waits in your own mailboxes.');
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, (tx) => deskCases(tx, user, query.whose, query.limit, compiled));
  },

  passCase: async ({ user, body, services }) => {
    const { database } = services;
    // A colleague who cannot read an email cannot decide about it either.
    const readable = async (userId: number): Promise<number> => {
      const rows = await database.as(userId, (tx) =>
        rowsOf(tx, countRow, sql`SELECT count(*)::int AS n FROM email_contents WHERE email_id = ANY(${sql.param(body.emails)}::bigint[])`),
      );
      return rows[0]?.n ?? 0;
    };
    if ((await readable(user.id)) < new Set(body.emails).size)
      return new Refusal('forbidden', 'not-yours', 'Some of these emails are not yours to read. Nothing was passed on.');
    if ((await readable(body.to)) < new Set(body.emails).size)
      return new Refusal(
        'conflict',
        'not-theirs',
        'That colleague may not read these emails, so they cannot decide about them. Choose another colleague, or share the emails first.',
      );
    const { rowCount } = await database.as(user.id, (tx) =>
      tx.execute(sql`INSERT INTO desk_passes (email_id, to_user_id, by_user_id) SELECT id, ${body.to}, ${user.id} FROM unnest(${sql.param(body.emails)}::bigint[]) AS n(id)
        ON CONFLICT (email_id) DO UPDATE SET to_user_id = excluded.to_user_id, by_user_id = excluded.by_user_id, at = now()`),
    );
    return { passed: rowCount ?? 0 };
  },
};
