import { z } from 'zod';
import { isRefusal, Refusal } from '../base/refusal';
import type { Services } from '../base/services';
import { markUndone } from '../base/undoLog';
import type { Undoer } from '../base/undoLog';
import { changeDraftToo } from '../rulebook/draft';
import { withoutEntry } from '../rulebook/keepOutEntry';
import { putRulebook, storedRulebook } from '../rulebook/liveRulebook';
import { changePilotToo } from '../rulebook/pilot';
import { takeRulebookLock } from '../rulebook/rulebookLock';
import { runDecisions } from './decideRun';
import { scopeOf } from './keepOutScope';

const keptOut = z.object({ entryId: z.string() });

/** An entry goes off the keep-out list; its emails are decided again. */
export const undoKeepOut: Undoer<z.output<typeof keptOut>> = {
  kind: 'keepOut',
  forAdministrators: 'The keep-out list is for administrators.',
  payload: keptOut,
  undo: async (services, doer, { entryId }) => {
    const taken = await takeOff(services, doer.id, entryId);
    return isRefusal(taken) ? taken : { changed: taken.changed, kept: [] };
  },
};

/** Takes an entry off the list in force, the draft and the pilot, and has its emails decided again. */
export async function takeOff(
  services: Services,
  userId: number,
  entryId: string,
): Promise<{ changed: number; version: number } | Refusal> {
  const result = await services.database.as(userId, async (tx) => {
    await takeRulebookLock(tx);
    const { rulebook } = await storedRulebook(tx);
    const found = rulebook.keepOut.entries.find((item) => item.id === entryId);
    if (!found) return new Refusal('unknown', 'not-found', 'This entry is not on the kept-out list any more.');
    await markUndone(tx, userId, 'keepOut', { entryId });
    const next = await putRulebook(tx, withoutEntry(rulebook, entryId), `No longer keep out ${found.value}`, userId);
    await changeDraftToo(tx, next, (draft) => withoutEntry(draft, entryId));
    await changePilotToo(tx, (pilot) => withoutEntry(pilot, entryId));
    return { entry: found, version: next };
  });
  if (isRefusal(result)) return result;
  const { entry, version } = result;
  const report = await runDecisions(services.database, services.blobs, scopeOf(entry));
  return { changed: report.changed, version };
}
