import { recordKind } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { decideFor } from '../base/concerned';
import { isRefusal, notFound, Refusal } from '../base/refusal';
import type { Undoer } from '../base/undoLog';
import { liveRulebook } from '../rulebook/liveRulebook';
import { currentValues } from './currentValues';
import { editRecord } from './editRecord';
import type { FieldChange } from './recordLog';

const values = z.record(z.string(), z.string());
const edit = z.object({ kind: recordKind, id: z.number(), before: values, after: values });

/** Fields of a record get back what they said, as long as none of them was changed since. */
export const undoEdit: Undoer<z.output<typeof edit>> = {
  kind: 'edit',
  payload: edit,
  undo: async (services, doer, { kind, id, before, after }, at) => {
    const { compiled } = await liveRulebook(services.database);
    const result = await services.database.as(doer.id, async (tx) => {
      const current = (await currentValues(tx, kind, [id])).get(id);
      if (!current) return notFound(kind);
      const changed = Object.keys(after).filter((field) => (current[field] ?? '') !== after[field]);
      if (changed.length > 0) return changedSince(changed);
      const edited = await editRecord(tx, doer.id, kind, id, before, compiled);
      if (kind === 'contact') await forgetMoves(tx, [id], at);
      return edited;
    });
    if (isRefusal(result)) return result;
    await decideFor(services, result.concerned);
    return { changed: 1, kept: [] };
  },
};

/** Contacts were never at an account to which a step moved them, once that is undone: neither the move nor the way back leaves a former account. */
export async function forgetMoves(tx: Tx, contactIds: readonly number[], at: string): Promise<void> {
  await tx.execute(
    sql`DELETE FROM contact_accounts WHERE contact_id = ANY(${sql.param([...contactIds])}::bigint[]) AND until IN (${at}::timestamptz, now())`,
  );
}

export const changedSince = (fields: readonly string[]): Refusal =>
  new Refusal('conflict', 'changed-since', `It was changed since: ${fields.join(', ')}. Nothing was undone; change it by hand.`);

/** An edit as its undoer takes it. */
export function editStep(kind: z.output<typeof recordKind>, id: number, name: string, changes: readonly FieldChange[]) {
  const before = Object.fromEntries(changes.map((change) => [change.field, change.before]));
  const after = Object.fromEntries(changes.map((change) => [change.field, change.after]));
  const fields = changes.map((change) => change.field.replace(/_/g, ' '));
  const what = fields.length > 4 ? `${fields.length} fields` : fields.join(', ');
  return { summary: `Changed ${what} of ${name}`, payload: { kind, id, before, after } };
}
