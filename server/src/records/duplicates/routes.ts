import { Refusal, isRefusal } from '../../base/refusal';
import type { Handlers } from '../../base/handler';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { duplicatesOf } from './duplicatesOf';
import { mergeTwo } from './mergeTwo';
import { insertRefusal, listMerges, mergeById } from './queries';
import { partRecords } from './undoMergeStep';

export const duplicateRoutes: Pick<Handlers, 'listDuplicates' | 'refuseDuplicate' | 'mergeRecords' | 'listMerges' | 'undoMerge'> = {
  listDuplicates: async ({ user, params, query, services }) => {
    const { compiled } = await liveRulebook(services.database);
    return duplicatesOf(services.database, user.id, params.kind, query.limit, compiled);
  },

  refuseDuplicate: async ({ user, params, body: { one, other }, services }) => {
    if (one === other) return new Refusal('unfit', 'bad-input', 'These are one record. Name two.', { other: 'is the same' });
    await services.database.as(user.id, (tx) => insertRefusal(tx, params.kind, [one, other], user.id));
    return {};
  },

  mergeRecords: ({ user, params, body, services }) => mergeTwo(services, user, params.kind, params.id, body),

  listMerges: async ({ user, query, services }) => ({
    merges: await services.database.as(user.id, (tx) => listMerges(tx, query)),
  }),

  undoMerge: async ({ user, params, services }) => {
    const undone = await partRecords(services, user, params.id);
    if (isRefusal(undone)) return undone;
    return services.database.as(user.id, (tx) => mergeById(tx, params.id));
  },
};
