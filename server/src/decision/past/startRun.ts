import type { Refusal } from '../../base/refusal';
import type { DecideRun, User } from '@fulvet/contract';
import type { Database } from '../../base/db/database';
import type { Services } from '../../base/services';
import { addWork, cancelWork, workAbout } from '../../base/work';
import type { Span } from './decidePast';
import { PAST_RUN_TEXTS } from './pastRun';
import { decideRun, insertRun } from './queries';

/** Has the rulebook in force decide past mail. */
export async function startRun(
  { database, jobs }: Services,
  user: User,
  order: Span & { withoutMade: boolean },
): Promise<DecideRun | Refusal> {
  const id = await database.as(user.id, async (tx) => insertRun(tx, await addWork(tx, 'past run', { phase: 'deciding' }), user.id, order));
  await jobs.decideAll(id);
  return database.as(user.id, (tx) => decideRun(tx, id));
}

export function cancelRun(database: Database, user: User, id: number): Promise<DecideRun | Refusal> {
  return database.as(user.id, async (tx) => {
    const workId = await workAbout(tx, 'past run', id);
    if (workId !== null) await cancelWork(tx, workId, { states: ['queued'], message: PAST_RUN_TEXTS.cancelled });
    return decideRun(tx, id);
  });
}
