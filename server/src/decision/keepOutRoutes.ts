import { isRefusal, Refusal } from '../base/refusal';
import { randomBytes } from 'node:crypto';
import type { Handlers } from '../base/handler';
import { noteStep } from '../base/undoLog';
import { changeDraftToo } from '../rulebook/draft';
import { entryFrom, withEntry } from '../rulebook/keepOutEntry';
import { putRulebook, storedRulebook } from '../rulebook/liveRulebook';
import { changePilotToo } from '../rulebook/pilot';
import { takeRulebookLock } from '../rulebook/rulebookLock';
import { runDecisions } from './decideRun';
import { scopeOf } from './keepOutScope';
import { takeOff, undoKeepOut } from './undoKeepOut';
import { previewAllowAgain, previewKeepOut } from './previewKeepOut';

export const keepOutRoutes: Pick<Handlers, 'previewKeepOut' | 'previewAllowAgain' | 'keepOut' | 'removeKeepOut'> = {
  previewKeepOut: async ({ body, services }) => {
    const entry = entryFrom(body, 'preview', '', '');
    return isRefusal(entry) ? entry : previewKeepOut(services.database, services.blobs, entry);
  },

  previewAllowAgain: ({ params, services }) => previewAllowAgain(services.database, services.blobs, params.entry),

  keepOut: async ({ user, body, services }) => {
    const { database } = services;
    const entry = entryFrom(body, `out-${randomBytes(4).toString('hex')}`, user.name, new Date().toISOString());
    if (isRefusal(entry)) return entry;
    const result = await database.as(user.id, async (tx) => {
      await takeRulebookLock(tx);
      const { rulebook } = await storedRulebook(tx);
      if (rulebook.keepOut.entries.some((item) => item.kind === entry.kind && item.value === entry.value))
        return new Refusal('conflict', 'exists', `${entry.value} is on the kept-out list already.`);
      const next = await putRulebook(tx, withEntry(rulebook, entry), `Keep out ${entry.value}`, user.id);
      await changeDraftToo(tx, next, (draft) => withEntry(draft, entry));
      await changePilotToo(tx, (pilot) => withEntry(pilot, entry));
      return {
        version: next,
        undo: await noteStep(tx, user.id, undoKeepOut, { summary: `Keep out ${entry.value}`, payload: { entryId: entry.id } }),
      };
    });
    if (isRefusal(result)) return result;
    const { version, undo } = result;
    const report = await runDecisions(database, services.blobs, scopeOf(entry));
    return { undo, changed: report.changed, version };
  },

  removeKeepOut: ({ user, params, services }) => takeOff(services, user.id, params.entry),
};
