import type { Concerned } from '../../base/concerned';
import type { Tx } from '../../base/db/database';
import { currentValues } from '../currentValues';
import { ledTo } from '../mailLedTo';
import { changesBetween, noteChanges, noteCreated } from '../recordLog';
import type { PlannedRow } from '../writeRecord';
import { setParent, writeRow } from '../writeRecord';
import type { ImportPlan } from './planImport';

/** Writes a plan. Fields that the file does not have stay as they are. Runs in the caller's transaction. */
export async function applyImport(tx: Tx, plan: ImportPlan, userId: number): Promise<Concerned> {
  const rows = plan.rows.filter((row) => row.action !== 'same');
  const before = await currentValues(tx, plan.kind);
  for (const row of rows) row.id = await writeRow(tx, plan.kind, row, plan.own);
  if (plan.kind === 'account') for (const row of rows) await setParent(tx, row);
  await noteImport(tx, userId, plan.kind, rows, before);
  const ids = rows.flatMap((row) => row.id ?? []);
  const led = ledTo(
    plan.kind,
    ids.map((id) => before.get(id)),
  );
  return { ...led, records: { kind: plan.kind, ids } };
}

async function noteImport(
  tx: Tx,
  userId: number,
  kind: ImportPlan['kind'],
  rows: readonly PlannedRow[],
  before: ReadonlyMap<number, Record<string, string>>,
): Promise<void> {
  const after = await currentValues(tx, kind);
  for (const { id, values } of rows) {
    if (id === null) continue;
    const stood = before.get(id);
    if (stood) await noteChanges(tx, userId, kind, id, changesBetween(stood, after.get(id) ?? {}));
    else await noteCreated(tx, userId, { kind, id, name: values.name ?? '' });
  }
}
