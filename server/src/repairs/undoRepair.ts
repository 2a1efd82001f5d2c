import { correctedFilings, repairs } from '../base/db/schema';
import { z } from 'zod';
import { idRow, json, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { RecordKind, RepairUndone, User } from '@fulvet/contract';
import { sql, eq } from 'drizzle-orm';
import { takeMailLock } from '../base/db/mailLock';
import { decideUnsealed } from '../decision/decideConversations';
import { RulebookInForce } from '../rulebook/rulebookInForce';
import { detach, removeCreated } from '../records/removeCreated';
import { markUndone } from '../base/undoLog';
import type { Services } from '../base/services';
import { dealActivity, letScoresFollow } from './followScores';
import { removeSecondAddresses } from './secondAddresses';
import { conversationsWith } from '../emails/conversationsWith';
import type { SecondAddress } from './secondAddresses';

/** More mail than this under records that go is decided by a job instead of while the caller waits. */
const AT_ONCE = 2000;

const repairRow = z.object({
  user_id: z.number(),
  sealed: z.boolean(),
  created: json<{ kind: RecordKind; id: number }[]>(),
  addresses: json<SecondAddress[]>(),
  undone: z.boolean(),
});

/**
 * Takes a repair back as one step: its pins are released, the records that it created go unless something else has come to depend on them,
 * and the mail is decided again.
 */
export async function undoRepair(services: Services, user: User, repairId: number): Promise<RepairUndone | Refusal> {
  const { database, blobs, jobs } = services;
  const inForce = await RulebookInForce.load(database);
  const result = await database.work(async (tx) => {
    await takeMailLock(tx);
    const rows = await rowsOf(
      tx,
      repairRow,
      sql`SELECT user_id, sealed, created, addresses, undone_at IS NOT NULL AS undone FROM repairs WHERE id = ${repairId} FOR UPDATE`,
    );
    const [repair] = rows;
    if (!repair || (repair.user_id !== user.id && (user.role !== 'admin' || repair.sealed))) return notFound('repair');
    if (repair.undone) return new Refusal('conflict', 'undone', 'This has already been undone.');
    const pinned = await rowsOf(
      tx,
      idRow,
      sql`
      WITH freed AS (UPDATE pins SET released_at = clock_timestamp() WHERE repair_id = ${repairId} AND released_at IS NULL RETURNING email_id)
      SELECT DISTINCT e.conversation_id AS id FROM freed f JOIN emails e ON e.id = f.email_id`,
    );
    const freed = pinned.map((row) => row.id);
    const activity = await dealActivity(tx, freed);
    const kept = await removeCreated(tx, repair.created);
    const gone = repair.created.filter((item) => !kept.some((it) => it.kind === item.kind && it.id === item.id));
    const taken = await removeSecondAddresses(tx, user.id, repair.addresses);
    const touched = [
      ...(await detach(tx, gone)),
      ...(await conversationsWith(
        tx,
        taken.map((second) => second.address),
      )),
    ];
    await tx
      .update(repairs)
      .set({ undoneAt: sql`now()` })
      .where(eq(repairs.id, repairId));
    await tx.delete(correctedFilings).where(eq(correctedFilings.repairId, repairId));
    await markUndone(tx, user.id, 'repair', { repairId });
    const conversations = [...new Set([...freed, ...(touched.length <= AT_ONCE ? touched : [])])];
    await tx.execute(
      sql`UPDATE emails SET decided_at = NULL WHERE conversation_id = ANY(${sql.param([...new Set([...conversations, ...touched])])}::bigint[])`,
    );
    const { changed } = await decideUnsealed(tx, blobs, conversations, inForce);
    const othersFollow = await letScoresFollow(tx, activity, freed, inForce);
    return { changed, kept, pending: touched.length > AT_ONCE || othersFollow };
  });
  if (isRefusal(result)) return result;
  const { pending, ...undone } = result;
  if (pending) await jobs.decidePending();
  return undone;
}
