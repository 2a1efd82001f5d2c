import { recordKind } from '@fulvet/contract';
import type { RecordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { takeMailLock } from '../base/db/mailLock';
import { Refusal } from '../base/refusal';
import type { Undoer } from '../base/undoLog';
import { detach, removeCreated } from './removeCreated';
import type { KeptRecord } from './removeCreated';

const created = z.object({ kind: recordKind, id: z.number() });

/** A record that was created by hand goes, unless something was built on it; its mail is decided again. */
export const undoCreate: Undoer<z.output<typeof created>> = {
  kind: 'create',
  payload: created,
  undo: async (services, _doer, record) => {
    const kept = await services.database.work((tx) => takeBack(tx, [record]));
    const [stays] = kept;
    if (stays) return new Refusal('conflict', 'changed-since', `${stays.name} stays: ${stays.because}. Nothing was undone.`);
    await services.jobs.decidePending();
    return { changed: 1, kept };
  },
};

/** Removes records that were created together, where nothing was built on them, and has their mail decided again. @returns those that stay */
export async function takeBack(tx: Tx, records: readonly { kind: RecordKind; id: number }[]): Promise<KeptRecord[]> {
  await takeMailLock(tx);
  const kept = await removeCreated(tx, records);
  const gone = records.filter((record) => !kept.some((item) => item.kind === record.kind && item.id === record.id));
  const conversations = await detach(tx, gone);
  await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE conversation_id = ANY(${sql.param(conversations)}::bigint[])`);
  return kept;
}
