import { Refusal, isRefusal } from '../base/refusal';
import type { RecordSetup } from '@fulvet/contract';
import type { Tx } from '../base/db/database';
import type { Handlers } from '../base/handler';
import { dealStages, setDealStages } from './dealStages';
import { ownFields, setOwnFields } from './ownFields';
import { deleteFilter, savedFilters, saveFilter } from './savedFilters';

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

  listViews: ({ user, services }) => services.database.as(user.id, async (tx) => ({ views: await savedFilters(tx, user.id) })),

  keepView: ({ user, body, services }) => services.database.as(user.id, (tx) => saveFilter(tx, user.id, body)),

  forgetView: async ({ user, params, services }) =>
    (await services.database.as(user.id, (tx) => deleteFilter(tx, user.id, params.id)))
      ? {}
      : new Refusal('unknown', 'not-found', 'There is no such saved filter of yours.'),
};
