import { isRefusal } from '../../base/refusal';
import type { Refusal } from '../../base/refusal';
import type { Merge, User } from '@fulvet/contract';
import { decideFor } from '../../base/concerned';
import type { Services } from '../../base/services';
import { noteStep } from '../../base/undoLog';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { demandSeen } from '../seenRecords';
import type { MergeableKind } from './duplicatesOf';
import { mergeRecords } from './mergeRecords';
import { mergeById } from './queries';
import { undoMergeStep } from './undoMergeStep';

type Wanted = Parameters<typeof mergeRecords>[4];

/** Merges a record that a member sees into another, as a step that can be undone, and has the mail of both decided again. */
export async function mergeTwo(
  services: Services,
  user: User,
  kind: MergeableKind,
  keptId: number,
  wanted: Wanted,
): Promise<Merge | Refusal> {
  const { database } = services;
  const both = [keptId, wanted.gone].map((id) => ({ kind, id }));
  const refused = await database.as(user.id, (tx) => demandSeen(tx, both));
  if (isRefusal(refused)) return refused;
  const { compiled } = await liveRulebook(database);
  const done = await database.work(async (tx) => {
    const merged = await mergeRecords(tx, user, kind, keptId, wanted, compiled);
    if (isRefusal(merged)) return merged;
    const { goneName, keptName } = await mergeById(tx, merged.id);
    await noteStep(tx, user.id, undoMergeStep, { summary: `Merged ${goneName} into ${keptName}`, payload: { mergeId: merged.id } });
    return merged;
  });
  if (isRefusal(done)) return done;
  await decideFor(services, done.mail);
  return database.as(user.id, (tx) => mergeById(tx, done.id));
}
