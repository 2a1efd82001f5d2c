import { z } from 'zod';
import { idRow, rowsOf } from '../base/db/rows';
import { recordKind } from '@fulvet/contract';
import { Refusal, isRefusal } from '../base/refusal';
import type { RecordSetup, RecordView } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { Handlers } from '../base/handler';
import { dealStages, setDealStages } from './dealStages';
import { ownFields, setOwnFields } from './ownFields';

async function setup(tx: Tx): Promise<RecordSetup> {
  return {
    ownFields: {
      contact: await ownFields(tx, 'contact'),
      lead: await ownFields(tx, 'lead'),
      account: await ownFields(tx, 'account'),
      deal: await ownFields(tx, 'deal'),
    },
    stages: await dealStages(tx),
  };
}

const recordViewRow = z.object({
  id: z.number(),
  kind: recordKind,
  name: z.string(),
  query: z.string(),
  shared: z.boolean(),
  mine: z.boolean(),
  by: z.string(),
});

async function viewsOf(tx: Tx, userId: number, id: number | null): Promise<RecordView[]> {
  const rows = await rowsOf(
    tx,
    recordViewRow,
    sql`
    SELECT v.id, v.record_kind AS kind, v.name, v.query, v.shared, v.user_id = ${userId} AS mine, u.name AS by FROM record_views v JOIN users u ON u.id = v.user_id
    WHERE ${id === null ? sql`true` : sql`v.id = ${id}`} ORDER BY v.user_id <> ${userId}, lower(v.name)`,
  );
  return rows;
}

export const recordSetupRoutes: Pick<
  Handlers,
  'getRecordSetup' | 'setOwnFields' | 'setDealStages' | 'listViews' | 'keepView' | 'forgetView'
> = {
  getRecordSetup: ({ user, services }) => services.database.as(user.id, setup),

  setOwnFields: ({ user, params, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const refused = await setOwnFields(tx, params.kind, body.fields);
      if (isRefusal(refused)) return refused;
      return setup(tx);
    }),

  setDealStages: ({ user, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const refused = await setDealStages(tx, user.id, body.stages);
      if (isRefusal(refused)) return refused;
      return setup(tx);
    }),

  listViews: ({ user, services }) => services.database.as(user.id, async (tx) => ({ views: await viewsOf(tx, user.id, null) })),

  keepView: ({ user, body, services }) =>
    services.database.as(user.id, async (tx) => {
      const rows = await rowsOf(
        tx,
        idRow,
        sql`INSERT INTO record_views (record_kind, name, user_id, shared, query) VALUES (${body.kind}, ${body.name}, ${user.id}, ${body.shared}, ${body.query})
        ON CONFLICT (user_id, record_kind, lower(name)) DO UPDATE SET query = excluded.query, shared = excluded.shared, name = excluded.name RETURNING id`,
      );
      const [view] = await viewsOf(tx, user.id, rows[0]?.id ?? 0);
      if (!view) throw new Error('the view that was kept is not there');
      return view;
    }),

  forgetView: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => {
      const { rowCount } = await tx.execute(sql`DELETE FROM record_views WHERE id = ${params.id} AND user_id = ${user.id}`);
      if (rowCount === 0) return new Refusal('unknown', 'not-found', 'There is no such list of yours.');
      return {};
    }),
};
