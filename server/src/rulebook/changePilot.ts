import { Refusal, isRefusal } from '../base/refusal';
import type { User } from '@fulvet/contract';
import { canonicalJson } from '@fulvet/core';
import type { Database, Tx } from '../base/db/database';
import { summaryOf } from './changeDraft';
import { deleteDraft, demandRevision, draftState, loadDraft, rebaseDraft } from './draft';
import { putRulebook } from './liveRulebook';
import type { RunningPilot } from './pilot';
import { endPilot, mailboxesThere, runningPilot } from './pilot';
import { takeRulebookLock } from './rulebookLock';

async function demandPilot(tx: Tx): Promise<RunningPilot | Refusal> {
  const pilot = await runningPilot(tx);
  return pilot ?? new Refusal('conflict', 'no-pilot', 'No pilot runs. It was put live or ended meanwhile.');
}

async function demandMailboxes(tx: Tx, addresses: readonly string[]): Promise<Refusal | null> {
  const there = await mailboxesThere(tx, addresses);
  const missing = addresses.find((address) => !there.has(address));
  return missing === undefined
    ? null
    : new Refusal('unfit', 'no-such-mailbox', `There is no mailbox ${missing}. Choose among those that are connected.`);
}

interface PilotOrder {
  revision: number;
  mailboxes: string[];
  note?: string | undefined;
}

/** Puts the draft in force for the mail of some mailboxes only. @returns its version */
export function startPilot(
  database: Database,
  user: User,
  { revision, mailboxes, note }: PilotOrder,
): Promise<{ version: number } | Refusal> {
  return database.as(user.id, async (tx) => {
    await takeRulebookLock(tx);
    const draft = await demandRevision(tx, revision);
    if (isRefusal(draft)) return draft;
    if (await runningPilot(tx))
      return new Refusal('conflict', 'pilot-runs', 'A pilot runs already. Put it live for everyone, or end it, first.');
    const { differences } = await draftState(tx);
    if (differences.length === 0) return new Refusal('conflict', 'nothing-changed', 'The draft says the same as what is in force.');
    const refused = await demandMailboxes(tx, mailboxes);
    if (isRefusal(refused)) return refused;
    return { version: await putRulebook(tx, draft.rulebook, summaryOf(note, differences), user.id, mailboxes) };
  });
}

/** Puts what a pilot tries in force for everyone. */
export function putPilotLive(database: Database, user: User, note: string | undefined): Promise<Refusal | null> {
  return database.as(user.id, async (tx) => {
    await takeRulebookLock(tx);
    const pilot = await demandPilot(tx);
    if (isRefusal(pilot)) return pilot;
    if (pilot.behind)
      return new Refusal(
        'conflict',
        'changed-meanwhile',
        'Another version was put in force for everyone since this pilot began, and would be lost. End the pilot, and make its changes again over what is in force.',
      );
    await endPilot(tx);
    await putRulebook(tx, pilot.rulebook, summaryOf(note, [pilot.summary]), user.id);
    const draft = await loadDraft(tx);
    // What was edited on since stays a draft; what says the same is done with.
    if (canonicalJson(draft.rulebook) === canonicalJson(pilot.rulebook)) await deleteDraft(tx);
    else await rebaseDraft(tx);
    return null;
  });
}

/** Ends a pilot: its mailboxes follow again what is in force for everyone. */
export function stopPilot(database: Database, user: User): Promise<Refusal | null> {
  return database.as(user.id, async (tx) => {
    await takeRulebookLock(tx);
    const pilot = await demandPilot(tx);
    if (isRefusal(pilot)) return pilot;
    await endPilot(tx);
    return null;
  });
}
