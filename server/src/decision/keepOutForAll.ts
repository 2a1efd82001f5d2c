import { isRefusal, Refusal } from '../base/refusal';
import type { User } from '@fulvet/contract';
import { randomBytes } from 'node:crypto';
import type { Services } from '../base/services';
import { noteStep } from '../base/undoLog';
import { changeDraftToo } from '../rulebook/draft';
import { entryFrom, withEntry } from '../rulebook/keepOutEntry';
import { putRulebook, storedRulebook } from '../rulebook/liveRulebook';
import { changePilotToo } from '../rulebook/pilot';
import { takeRulebookLock } from '../rulebook/rulebookLock';
import { runDecisions } from './decideRun';
import { scopeOf } from './keepOutScope';
import { undoKeepOut } from './undoKeepOut';

/** What came of keeping something out: the step to undo it, and how many emails were decided otherwise. */
export interface KeptOut {
  undo: number;
  changed: number;
  version: number;
}

/**
 * Keeps an address or a domain out at once: in the rulebook in force, in the draft, and in the rulebook of a pilot, as a step that can be
 * undone. The past mail that it is about is decided again.
 */
export async function keepOutForAll(
  { database, blobs }: Services,
  user: User,
  wanted: Parameters<typeof entryFrom>[0],
): Promise<KeptOut | Refusal> {
  const entry = entryFrom(wanted, `out-${randomBytes(4).toString('hex')}`, user.name, new Date().toISOString());
  if (isRefusal(entry)) return entry;
  const summary = `Keep out ${entry.value}`;
  const done = await database.as(user.id, async (tx) => {
    await takeRulebookLock(tx);
    const { rulebook } = await storedRulebook(tx);
    if (rulebook.keepOut.entries.some((item) => item.kind === entry.kind && item.value === entry.value))
      return new Refusal('conflict', 'exists', `${entry.value} is on the kept-out list already.`);
    const version = await putRulebook(tx, withEntry(rulebook, entry), summary, user.id);
    await changeDraftToo(tx, version, (draft) => withEntry(draft, entry));
    await changePilotToo(tx, (pilot) => withEntry(pilot, entry));
    return { version, undo: await noteStep(tx, user.id, undoKeepOut, { summary, payload: { entryId: entry.id } }) };
  });
  if (isRefusal(done)) return done;
  const { changed } = await runDecisions(database, blobs, scopeOf(entry));
  return { ...done, changed };
}
