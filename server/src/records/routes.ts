import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { isRefusal } from '../base/refusal';
import { sql } from 'drizzle-orm';
import { decideFor } from '../base/concerned';
import type { Handlers } from '../base/handler';
import { noteStep } from '../base/undoLog';
import { liveRulebook } from '../rulebook/liveRulebook';
import { setDealPeople } from './dealPeople';
import { editRecord } from './editRecord';
import { handOver } from './handOver';
import { recordDetail } from './recordDetail';
import { recordList } from './recordList';
import { undoCreate } from './undoCreate';
import { undoDealPeople } from './undoDealPeople';
import { editStep, undoEdit } from './undoEdit';
import { undoHandOver } from './undoHandOver';

const recordChangeRow = z.object({
  id: z.number(),
  at: moment,
  by: z.string().nullable(),
  field: z.string(),
  before: z.string(),
  after: z.string(),
});

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
    const result = await services.database.as(user.id, async (tx) => {
      const created = await editRecord(tx, user.id, params.kind, null, body.values, compiled);
      if (isRefusal(created)) return created;
      const { id, name, concerned } = created;
      const step = { summary: `Created the ${params.kind} ${name}`, payload: { kind: params.kind, id } };
      return { id, concerned, undo: await noteStep(tx, user.id, undoCreate, step) };
    });
    if (isRefusal(result)) return result;
    const { id, undo, concerned } = result;
    await decideFor(services, concerned);
    return { id, undo };
  },

  editRecord: async ({ user, params, body, services }) => {
    const { kind, id } = params;
    const { compiled } = await liveRulebook(services.database);
    const result = await services.database.as(user.id, async (tx) => {
      const edited = await editRecord(tx, user.id, kind, id, body.values, compiled);
      if (isRefusal(edited)) return edited;
      const detail = await recordDetail(tx, kind, id, compiled);
      if (isRefusal(detail)) return detail;
      const { name, changes, concerned } = edited;
      const undo = changes.length > 0 ? await noteStep(tx, user.id, undoEdit, editStep(kind, id, name, changes)) : null;
      return { detail: { ...detail, undo }, concerned };
    });
    if (isRefusal(result)) return result;
    await decideFor(services, result.concerned);
    return result.detail;
  },

  recordChanges: async ({ user, params, services }) => {
    const rows = await services.database.as(user.id, (tx) =>
      rowsOf(
        tx,
        recordChangeRow,
        sql`SELECT c.id, c.at, u.name AS by, c.field, c.before, c.after FROM record_changes c LEFT JOIN users u ON u.id = c.user_id WHERE c.kind = ${params.kind} AND c.record_id = ${params.id} ORDER BY c.id DESC LIMIT 300`,
      ),
    );
    return { changes: rows.map((row) => ({ ...row, at: row.at })) };
  },

  handOver: async ({ user, params, body, services }) => {
    const { kind } = params;
    const result = await services.database.as(user.id, async (tx) => {
      const handed = await handOver(tx, user.id, kind, body);
      if (isRefusal(handed)) return handed;
      const { ids, before, toName, concerned } = handed;
      if (ids.length === 0) return { ids, concerned, undo: null };
      const summary = `Gave ${ids.length} ${ids.length === 1 ? kind : `${kind}s`} to ${toName}`;
      const undo = await noteStep(tx, user.id, undoHandOver, { summary, payload: { kind, to: body.to, records: before } });
      return { ids, concerned, undo };
    });
    if (isRefusal(result)) return result;
    const { ids, undo, concerned } = result;
    await decideFor(services, concerned);
    return { ids, undo };
  },

  setDealPeople: async ({ user, params, body, services }) => {
    const { compiled } = await liveRulebook(services.database);
    const result = await services.database.as(user.id, async (tx) => {
      const set = await setDealPeople(tx, user.id, params.id, body.people);
      if (isRefusal(set)) return set;
      const detail = await recordDetail(tx, 'deal', params.id, compiled);
      if (isRefusal(detail)) return detail;
      const { before, after, concerned } = set;
      const isSame = JSON.stringify(before) === JSON.stringify(after);
      const step = { summary: `Changed who is on ${detail.name}`, payload: { dealId: params.id, before, after } };
      return { detail: { ...detail, undo: isSame ? null : await noteStep(tx, user.id, undoDealPeople, step) }, concerned };
    });
    if (isRefusal(result)) return result;
    await decideFor(services, result.concerned);
    return result.detail;
  },
};
