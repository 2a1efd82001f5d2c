import { isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { entryFrom } from '../rulebook/keepOutEntry';
import { keepOutForAll } from './keepOutForAll';
import { previewAllowAgain, previewKeepOut } from './previewKeepOut';
import { takeOff } from './undoKeepOut';

export const keepOutRoutes: Pick<Handlers, 'previewKeepOut' | 'previewAllowAgain' | 'keepOut' | 'removeKeepOut'> = {
  previewKeepOut: async ({ body, services }) => {
    const entry = entryFrom(body, 'preview', '', '');
    return isRefusal(entry) ? entry : previewKeepOut(services.database, services.blobs, entry);
  },

  previewAllowAgain: ({ params, services }) => previewAllowAgain(services.database, services.blobs, params.entry),

  keepOut: ({ user, body, services }) => keepOutForAll(services, user, body),

  removeKeepOut: ({ user, params, services }) => takeOff(services, user.id, params.entry),
};
