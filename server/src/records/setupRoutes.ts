import { Refusal, isRefusal } from '../base/refusal';
import type { OwnField, RecordKind, RecordSetup, User } from '@fulvet/contract';
import { RECORD_KINDS } from '@fulvet/core';
import type { Tx } from '../base/db/database';
import type { Handlers } from '../base/handler';
import type { Services } from '../base/services';
import { dealStages, setDealStages } from './dealStages';
import { ownKinds } from './own/ownKinds';
import { createOwnKind, editOwnKind, removeOwnKind } from './own/setOwnKinds';
import { ownFields, setOwnFields } from './ownFields';
import { deleteFilter, savedFilters, saveFilter } from './savedFilters';

async function setup(tx: Tx): Promise<RecordSetup> {
  const fields: [RecordKind, OwnField[]][] = [];
  for (const kind of RECORD_KINDS) fields.push([kind, await ownFields(tx, kind)]);
  return {
    ownFields: Object.fromEntries(fields) as RecordSetup['ownFields'],
    stages: await dealStages(tx),
    kinds: await ownKinds(tx),
  };
}

const changeSetup = (
  { database }: Pick<Services, 'database'>,
  user: User,
  work: (tx: Tx) => Promise<Refusal | null>,
): Promise<RecordSetup | Refusal> =>
  database.as(user.id, async (tx) => {
    const refused = await work(tx);
    return isRefusal(refused) ? refused : setup(tx);
  });

export const recordSetupRoutes: Pick<
  Handlers,
  | 'getRecordSetup'
  | 'setOwnFields'
  | 'setDealStages'
  | 'createOwnKind'
  | 'editOwnKind'
  | 'removeOwnKind'
  | 'listViews'
  | 'keepView'
  | 'forgetView'
> = {
  getRecordSetup: ({ user, services }) => services.database.as(user.id, setup),

  setOwnFields: ({ user, params, body, services }) =>
    changeSetup(services, user, (tx) => setOwnFields(tx, { kind: params.kind, of: body.of }, body.fields)),

  setDealStages: ({ user, body, services }) => changeSetup(services, user, (tx) => setDealStages(tx, user.id, body.stages)),

  createOwnKind: ({ user, body, services }) => changeSetup(services, user, (tx) => createOwnKind(tx, user, body)),

  editOwnKind: ({ user, params, body, services }) => changeSetup(services, user, (tx) => editOwnKind(tx, user, params.id, body)),

  removeOwnKind: ({ user, params, services }) => changeSetup(services, user, (tx) => removeOwnKind(tx, user, params.id)),

  listViews: ({ user, services }) => services.database.as(user.id, async (tx) => ({ views: await savedFilters(tx, user.id) })),

  keepView: ({ user, body, services }) => services.database.as(user.id, (tx) => saveFilter(tx, user.id, body)),

  forgetView: async ({ user, params, services }) =>
    (await services.database.as(user.id, (tx) => deleteFilter(tx, user.id, params.id)))
      ? {}
      : new Refusal('unknown', 'not-found', 'There is no such saved filter of yours.'),
};
