import { Refusal, isRefusal } from '../base/refusal';
import type { DraftState, User } from '@fulvet/contract';
import { differenceWords } from '@fulvet/core';
import type { Database } from '../base/db/database';
import type { Services } from '../base/services';
import { acceptedRulebook } from './acceptedRulebook';
import { deleteDraft, demandRevision, draftState, keepDraft, listNames, loadDraft } from './draft';
import { putRulebook, storedRulebook } from './liveRulebook';
import { takeRulebookLock } from './rulebookLock';
import { noteDraft } from './undoDraft';
import { loadVersion } from './versions';

/** How long the summary of a version may be. */
const MOST_SUMMARY = 4000;

/** What a version says of itself: what was noted, then what it changes. */
export const summaryOf = (note: string | undefined, differences: readonly string[]): string =>
  [note, ...differences].filter(Boolean).join('\n').slice(0, MOST_SUMMARY);

type Changed = DraftState & { undo: number | null };

/**
 * Stores a rulebook as the draft, as a step that can be undone.
 *
 * @param revision that its writer had; null: over whatever the draft says now
 */
export async function putDraft(services: Services, user: User, document: unknown, revision: number | null): Promise<Changed | Refusal> {
  const accepted = await acceptedRulebook(services, document);
  if (isRefusal(accepted)) return accepted;
  return services.database.as(user.id, async (tx) => {
    await takeRulebookLock(tx);
    const before = await keepDraft(tx, user.id, accepted.rulebook, revision ?? (await loadDraft(tx)).revision);
    if (isRefusal(before)) return before;
    const undo = await noteDraft(tx, user.id, before);
    return { ...(await draftState(tx)), undo };
  });
}

/** Throws the draft away, as a step that can be undone. */
export function dropDraft(database: Database, user: User): Promise<Changed> {
  return database.as(user.id, async (tx) => {
    const before = await loadDraft(tx);
    await deleteDraft(tx);
    const undo = await noteDraft(tx, user.id, before);
    return { ...(await draftState(tx)), undo };
  });
}

/** Makes the draft what an earlier version said, as a step that can be undone. */
export async function versionToDraft(services: Services, user: User, version: number): Promise<Changed | Refusal> {
  const found = await services.database.as(user.id, (tx) => loadVersion(tx, version));
  return isRefusal(found) ? found : putDraft(services, user, found.document, null);
}

/** Puts the draft in force for everyone. */
export function putDraftLive(
  database: Database,
  user: User,
  { revision, note }: { revision: number; note?: string | undefined },
): Promise<Refusal | null> {
  return database.as(user.id, async (tx) => {
    await takeRulebookLock(tx);
    const draft = await demandRevision(tx, revision);
    if (isRefusal(draft)) return draft;
    const { differences } = await draftState(tx);
    if (differences.length === 0) return new Refusal('conflict', 'nothing-changed', 'The draft says the same as what is in force.');
    if (draft.baseVersion !== draft.liveVersion)
      return new Refusal(
        'conflict',
        'changed-meanwhile',
        `Version ${draft.liveVersion} was put in force after this draft was begun. Throw the draft away, or make its changes again over what is in force.`,
      );
    await putRulebook(tx, draft.rulebook, summaryOf(note, differences), user.id);
    await deleteDraft(tx);
    return null;
  });
}

/** Puts a rulebook in force for everyone without a draft, over the version that its writer had. */
export async function putInForce(services: Services, user: User, document: unknown, over: number | undefined): Promise<Refusal | null> {
  const accepted = await acceptedRulebook(services, document);
  if (isRefusal(accepted)) return accepted;
  return services.database.as(user.id, async (tx) => {
    await takeRulebookLock(tx);
    const current = await storedRulebook(tx);
    if (over !== undefined && over !== current.version)
      return new Refusal(
        'conflict',
        'changed-meanwhile',
        `Version ${current.version} was put in force meanwhile. Look at it, then save again.`,
      );
    const differences = differenceWords(current.rulebook, accepted.rulebook, await listNames(tx));
    await putRulebook(tx, accepted.rulebook, summaryOf(undefined, differences) || 'Nothing changed', user.id);
    return null;
  });
}
