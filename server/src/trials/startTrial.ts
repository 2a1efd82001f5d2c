import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { Trial, User } from '@fulvet/contract';
import { addWork, cancelWork, dropWork, workAbout } from '../base/work';
import type { Database } from '../base/db/database';
import type { Services } from '../base/services';
import { loadDraft } from '../rulebook/draft';
import { insertTrial, loadTrial } from './queries';
import type { TrialOrder } from './queries';
import { TRIAL_TEXTS } from './runTrial';

/** Has the draft decide past mail, on a copy. */
export async function startTrial(
  { database, jobs }: Services,
  user: User,
  { name, days, mailboxes, withoutMade }: Pick<TrialOrder, 'name' | 'days' | 'mailboxes' | 'withoutMade'>,
): Promise<Trial | Refusal> {
  const id = await database.as(user.id, async (tx) => {
    const { rulebook, liveVersion } = await loadDraft(tx);
    return insertTrial(tx, await addWork(tx, 'trial'), {
      name: name || `Trial of ${new Date().toISOString().slice(0, 16).replace('T', ' ')}`,
      userId: user.id,
      document: JSON.stringify(rulebook),
      baseVersion: liveVersion,
      days,
      mailboxes: mailboxes.map((mailbox) => mailbox.toLowerCase()),
      withoutMade,
    });
  });
  await jobs.runTrial(id);
  return database.as(user.id, (tx) => loadTrial(tx, id));
}

export function cancelTrial(database: Database, user: User, id: number): Promise<Trial | Refusal> {
  return database.as(user.id, async (tx) => {
    const workId = await workAbout(tx, 'trial', id);
    if (workId !== null) await cancelWork(tx, workId, { states: ['queued'], message: TRIAL_TEXTS.cancelled });
    return loadTrial(tx, id);
  });
}

/** Deletes a trial with its work, which ends if it is under way. */
export function deleteTrial(database: Database, user: User, id: number): Promise<Record<string, never> | Refusal> {
  return database.as(user.id, async (tx) => {
    const workId = await workAbout(tx, 'trial', id);
    if (workId === null) return notFound('trial');
    await dropWork(tx, workId);
    return {};
  });
}
