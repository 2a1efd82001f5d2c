import { isRefusal } from '../../base/refusal';
import type { Refusal } from '../../base/refusal';
import type { Merge, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
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
    await chooseKept(tx, kind, keptId, wanted.gone);
    const { goneName, keptName } = await mergeById(tx, merged.id);
    await noteStep(tx, user.id, undoMergeStep, { summary: `Merged ${goneName} into ${keptName}`, payload: { mergeId: merged.id } });
    return merged;
  });
  if (isRefusal(done)) return done;
  await decideFor(services, done.mail);
  return database.as(user.id, (tx) => mergeById(tx, done.id));
}

/** Emails that are being written for the record that is gone are filed under the one that is kept. */
async function chooseKept(tx: Tx, kind: MergeableKind, keptId: number, goneId: number): Promise<void> {
  const gone = JSON.stringify([{ kind, id: goneId }]);
  await tx.execute(sql`
    UPDATE outgoing SET filing_records = (SELECT jsonb_agg(DISTINCT CASE WHEN r @> (${gone}::jsonb->0) THEN jsonb_build_object('kind', ${kind}::text, 'id', ${keptId}::bigint) ELSE r END) FROM jsonb_array_elements(filing_records) r)
    WHERE email_id IS NULL AND filing_records @> ${gone}::jsonb`);
}
