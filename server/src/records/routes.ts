import { isRefusal } from '../base/refusal';
import { sql } from 'drizzle-orm';
import { decideFor } from '../base/concerned';
import type { Handlers } from '../base/handler';
import { liveRulebook } from '../rulebook/liveRulebook';
import { setDealPeople } from './dealPeople';
import { editRecord } from './editRecord';
import { handOver } from './handOver';
import { recordDetail } from './recordDetail';
import { recordList } from './recordList';

export const recordRoutes: Pick<
  Handlers,
  'listRecords' | 'getRecord' | 'createRecord' | 'editRecord' | 'recordChanges' | 'handOver' | 'setDealPeople'
> = {
  listRecords: ({ user, params, query, services }) => services.database.as(user.id, (tx) => recordList(tx, params.kind, query)),

  getRecord: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, (tx) => recordDetail(tx, params.kind, params.id, compiled));
  },

  createRecord: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const result = await services.database.as(user.id, (tx) => editRecord(tx, user.id, params.kind, null, body.values, compiled));
    if (isRefusal(result)) return result;
    const { id, concerned } = result;
    await decideFor(services, concerned);
    return { id };
  },

  editRecord: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const result = await services.database.as(user.id, async (tx) => {
      const edited = await editRecord(tx, user.id, params.kind, params.id, body.values, compiled);
      if (isRefusal(edited)) return edited;
      const detail = await recordDetail(tx, params.kind, params.id, compiled);
      return isRefusal(detail) ? detail : { detail, concerned: edited.concerned };
    });
    if (isRefusal(result)) return result;
    const { detail, concerned } = result;
    await decideFor(services, concerned);
    return detail;
  },

  recordChanges: async ({ user, params, services }) => {
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<{ id: number; at: string; by: string | null; field: string; before: string; after: string }>(
        sql`SELECT c.id, c.at, u.name AS by, c.field, c.before, c.after FROM record_changes c LEFT JOIN users u ON u.id = c.user_id WHERE c.kind = ${params.kind} AND c.record_id = ${params.id} ORDER BY c.id DESC LIMIT 300`,
      ),
    );
    return { changes: rows.map((row) => ({ ...row, at: new Date(row.at).toISOString() })) };
  },

  handOver: async ({ user, params, body, services }) => {
    const result = await services.database.as(user.id, (tx) => handOver(tx, user.id, params.kind, body));
    if (isRefusal(result)) return result;
    const { ids, concerned } = result;
    await decideFor(services, concerned);
    return { ids };
  },

  setDealPeople: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const result = await services.database.as(user.id, async (tx) => {
      const changed = await setDealPeople(tx, user.id, params.id, body.people);
      if (isRefusal(changed)) return changed;
      const detail = await recordDetail(tx, 'deal', params.id, compiled);
      return isRefusal(detail) ? detail : { detail, concerned: changed };
    });
    if (isRefusal(result)) return result;
    const { detail, concerned } = result;
    await decideFor(services, concerned);
    return detail;
  },
};
