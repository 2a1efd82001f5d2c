import type { Handlers } from '../base/handler';
import { liveRulebook } from '../rulebook/liveRulebook';
import { createByHand, editByHand, handOverByHand, putPeopleOn } from './changeByHand';
import { changesOf } from './queries';
import { proposedPeople } from './proposedPeople';
import { recordDetail } from './recordDetail';
import { recordList } from './recordList';

export const recordRoutes: Pick<
  Handlers,
  | 'listRecords'
  | 'getRecord'
  | 'createRecord'
  | 'editRecord'
  | 'recordChanges'
  | 'handOver'
  | 'setDealPeople'
  | 'setOwnRecordPeople'
  | 'proposeDealPeople'
> = {
  listRecords: ({ user, params, query, services }) => services.database.as(user.id, (tx) => recordList(tx, params.kind, query)),

  getRecord: async ({ user, params, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return services.database.as(user.id, (tx) => recordDetail(tx, params.kind, params.id, compiled));
  },

  createRecord: ({ user, params, body, services }) => createByHand(services, user, params.kind, body.values),

  editRecord: ({ user, params, body, services }) => editByHand(services, user, params, body.values),

  recordChanges: async ({ user, params, services }) => ({
    changes: await services.database.as(user.id, (tx) => changesOf(tx, params.kind, params.id)),
  }),

  handOver: ({ user, params, body, services }) => handOverByHand(services, user, params.kind, body),

  proposeDealPeople: ({ user, params, services }) =>
    services.database.as(user.id, async (tx) => ({ people: await proposedPeople(tx, params.id) })),

  setDealPeople: ({ user, params, body, services }) => putPeopleOn(services, user, { kind: 'deal', id: params.id }, body.people),

  setOwnRecordPeople: ({ user, params, body, services }) => putPeopleOn(services, user, { kind: 'own', id: params.id }, body.people),
};
