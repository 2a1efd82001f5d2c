import { z } from 'zod';
import { moment, rowsOf } from '../../base/db/rows';
import { recordKind } from '@fulvet/contract';
import { Refusal, isRefusal } from '../../base/refusal';
import type { Merge } from '@fulvet/contract';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import { decideFor } from '../../base/concerned';
import type { Tx } from '../../base/db/database';
import type { Handlers } from '../../base/handler';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { demandSeen } from '../seenRecords';
import { duplicatesOf } from './duplicatesOf';
import { mergeRecords } from './mergeRecords';
import { partRecords, undoMergeStep } from './undoMergeStep';
import { noteStep } from '../../base/undoLog';

const mergeRow = z.object({
  id: z.number(),
  kind: recordKind,
  kept_id: z.number(),
  kept_name: z.string().nullable(),
  gone_name: z.string(),
  at: moment,
  by: z.string(),
  undone: z.boolean(),
});

async function mergesWhere(tx: Tx, where: SQL, limit: number): Promise<Merge[]> {
  const rows = await rowsOf(
    tx,
    mergeRow,
    sql`
    SELECT m.id, m.kind, m.kept_id, r.name AS kept_name, m.gone_name, m.at, u.name AS by, m.undone_at IS NOT NULL AS undone FROM merges m JOIN users u ON u.id = m.user_id LEFT JOIN records r ON r.kind = m.kind AND r.id = m.kept_id
    WHERE ${where} ORDER BY m.id DESC LIMIT ${limit}`,
  );
  return rows.map((row) => ({
    id: row.id,
    kind: row.kind,
    keptId: row.kept_id,
    keptName: row.kept_name ?? '',
    goneName: row.gone_name,
    at: row.at,
    by: row.by,
    undone: row.undone,
  }));
}

async function mergeById(tx: Tx, id: number): Promise<Merge> {
  const [found] = await mergesWhere(tx, sql`m.id = ${id}`, 1);
  if (!found) throw new Error('the merge that was made is not there');
  return found;
}

export const duplicateRoutes: Pick<Handlers, 'listDuplicates' | 'refuseDuplicate' | 'mergeRecords' | 'listMerges' | 'undoMerge'> = {
  listDuplicates: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return duplicatesOf(services.database, user.id, params.kind, query.limit, compiled);
  },

  refuseDuplicate: async ({ user, params, body, services }) => {
    if (body.one === body.other) return new Refusal('unfit', 'bad-input', 'These are one record. Name two.', { other: 'is the same' });
    const [first, second] = body.one < body.other ? [body.one, body.other] : [body.other, body.one];
    await services.database.as(user.id, (tx) =>
      tx.execute(
        sql`INSERT INTO duplicate_refusals (kind, one_id, other_id, user_id) VALUES (${params.kind}, ${first}, ${second}, ${user.id}) ON CONFLICT DO NOTHING`,
      ),
    );
    return {};
  },

  mergeRecords: async ({ user, params, body, services }) => {
    const { database } = services;
    const both = [params.id, body.gone].map((id) => ({ kind: params.kind, id }));
    const refused = await database.as(user.id, (tx) => demandSeen(tx, both));
    if (isRefusal(refused)) return refused;
    const { compiled } = await liveRulebook(database);
    const result = await database.work(async (tx) => {
      const merged = await mergeRecords(tx, user, params.kind, params.id, body, compiled);
      if (isRefusal(merged)) return merged;
      const { goneName, keptName } = await mergeById(tx, merged.id);
      await noteStep(tx, user.id, undoMergeStep, { summary: `Merged ${goneName} into ${keptName}`, payload: { mergeId: merged.id } });
      return merged;
    });
    if (isRefusal(result)) return result;
    const { id, mail } = result;
    await decideFor(services, mail);
    return database.as(user.id, (tx) => mergeById(tx, id));
  },

  listMerges: async ({ user, query, services }) => {
    const kind = query.kind === undefined ? sql`true` : sql`m.kind = ${query.kind}`;
    const record = query.record === undefined ? sql`true` : sql`m.kept_id = ${query.record}`;
    return { merges: await services.database.as(user.id, (tx) => mergesWhere(tx, sql`${kind} AND ${record}`, query.limit)) };
  },

  undoMerge: async ({ user, params, services }) => {
    const undone = await partRecords(services, user, params.id);
    if (isRefusal(undone)) return undone;
    return services.database.as(user.id, (tx) => mergeById(tx, params.id));
  },
};
