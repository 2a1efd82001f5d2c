import { z } from 'zod';
import { idRow, moment, rowsOf } from '../../base/db/rows';
import type { Refusal } from '../../base/refusal';
import { notFound } from '../../base/refusal';
import type { DecideRun } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Handlers } from '../../base/handler';
import type { Services } from '../../base/services';
import type { Span } from './decidePast';
import { emailsOfSpan } from './decidePast';
import { addWork, cancelWork, workAbout } from '../../base/work';
import { PAST_RUN_TEXTS } from './pastRun';
import { undoRun } from './undoRunStep';

const DAY = 86_400_000;

const spanOf = ({ days, mailboxes }: { days: number | null; mailboxes: string[] }): Span => ({
  since: days === null ? null : new Date(Date.now() - days * DAY).toISOString(),
  mailboxes,
});

const decideRunRow = z.object({
  id: z.number(),
  state: z.enum(['failed', 'queued', 'running', 'done', 'cancelled']),
  done: z.number(),
  total: z.number(),
  changed: z.number(),
  message: z.string(),
  phase: z.enum(['deciding', 'writing']),
  since: moment.nullable(),
  mailboxes: z.array(z.string()),
  takenBack: z.number(),
});

async function decideRun(services: Services, userId: number, id: number): Promise<DecideRun | Refusal> {
  const rows = await services.database.as(userId, (tx) =>
    rowsOf(
      tx,
      decideRunRow,
      sql`SELECT r.id, w.state, w.done, w.total, r.changed, w.message, w.phase, r.since, r.mailboxes, r.taken_back AS "takenBack" FROM decide_runs r JOIN work w ON w.id = r.work_id WHERE r.id = ${id}`,
    ),
  );
  return rows[0] ?? notFound('run');
}

const listedRunRow = decideRunRow.extend({ at: moment, by: z.string().nullable(), undoable: z.boolean() });

export const pastRoutes: Pick<Handlers, 'countPast' | 'decide' | 'listDecideRuns' | 'undoDecideRun' | 'getDecideRun' | 'cancelDecideRun'> =
  {
    countPast: async ({ body, services }) => {
      const { inSpan } = await emailsOfSpan(services.database.worker, spanOf(body));
      return { emails: inSpan };
    },

    decide: async ({ user, body, services }) => {
      const { since, mailboxes } = spanOf(body);
      const rows = await services.database.as(user.id, async (tx) => {
        const workId = await addWork(tx, 'past run', { phase: 'deciding' });
        return rowsOf(
          tx,
          idRow,
          sql`INSERT INTO decide_runs (work_id, user_id, since, mailboxes, without_made) VALUES (${workId}, ${user.id}, ${since}::timestamptz, ${sql.param([...mailboxes])}::text[], ${body.withoutMade}) RETURNING id`,
        );
      });
      const id = rows[0]?.id ?? 0;
      await services.jobs.decideAll(id);
      return decideRun(services, user.id, id);
    },

    listDecideRuns: async ({ user, services }) => {
      const rows = await services.database.as(user.id, (tx) =>
        rowsOf(
          tx,
          listedRunRow,
          sql`
        SELECT r.id, w.state, w.done, w.total, r.changed, w.message, w.phase, r.since, r.mailboxes, r.taken_back AS "takenBack", w.created_at AS at, u.name AS by, r.undone_at IS NULL AND w.state = 'done' AND r.id > (SELECT max(id) FROM decide_runs) - 10 AS undoable
        FROM decide_runs r JOIN work w ON w.id = r.work_id LEFT JOIN users u ON u.id = r.user_id ORDER BY r.id DESC LIMIT 20`,
        ),
      );
      return { runs: rows };
    },

    undoDecideRun: ({ user, params, body, services }) => undoRun(services, user.id, params.id, { rulebook: body.rulebook }),

    getDecideRun: ({ user, params, services }) => decideRun(services, user.id, params.id),

    cancelDecideRun: async ({ user, params, services }) => {
      await services.database.as(user.id, async (tx) => {
        const workId = await workAbout(tx, 'past run', params.id);
        if (workId !== null) await cancelWork(tx, workId, { states: ['queued'], message: PAST_RUN_TEXTS.cancelled });
      });
      return decideRun(services, user.id, params.id);
    },
  };
