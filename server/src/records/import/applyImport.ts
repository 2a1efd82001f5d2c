import type { Concerned } from '../../base/concerned';
import type { Tx } from '../../base/db/database';
import { currentValues } from '../currentValues';
import { ledTo } from '../mailLedTo';
import type { FieldChange } from '../recordLog';
import { changesBetween, noteChanges, noteCreated } from '../recordLog';
import type { PlannedRow } from '../writeRecord';
import { setParent, writeRow } from '../writeRecord';
import type { ImportPlan } from './planImport';

/** What an import wrote. */
export interface Imported {
  created: number[];
  updated: { id: number; changes: FieldChange[] }[];
  /** Whose mail it concerns. */
  concerned: Concerned;
}

/** Writes a plan. Fields that the file does not have stay as they are. Runs in the caller's transaction. */
export async function applyImport(tx: Tx, plan: ImportPlan, userId: number): Promise<Imported> {
  const rows = plan.rows.filter((row) => row.action !== 'same');
  const before = await currentValues(tx, plan.kind);
  for (const row of rows) row.id = await writeRow(tx, plan.kind, row, plan.own);
  if (plan.kind === 'account') for (const row of rows) await setParent(tx, row);
  const imported = await noteImport(tx, userId, plan.kind, rows, before);
  const ids = rows.flatMap((row) => row.id ?? []);
  const led = ledTo(
    plan.kind,
    ids.map((id) => before.get(id)),
  );
  return { ...imported, concerned: { ...led, records: { kind: plan.kind, ids } } };
}

async function noteImport(
  tx: Tx,
  userId: number,
  kind: ImportPlan['kind'],
  rows: readonly PlannedRow[],
  before: ReadonlyMap<number, Record<string, string>>,
): Promise<Pick<Imported, 'created' | 'updated'>> {
  const after = await currentValues(tx, kind);
  const imported: Pick<Imported, 'created' | 'updated'> = { created: [], updated: [] };
  for (const { id, values } of rows) {
    if (id === null) continue;
    const stood = before.get(id);
    if (stood) {
      const changes = changesBetween(stood, after.get(id) ?? {});
      await noteChanges(tx, userId, kind, id, changes);
      if (changes.length > 0) imported.updated.push({ id, changes });
    } else {
      await noteCreated(tx, userId, { kind, id, name: values.name ?? '' });
      imported.created.push(id);
    }
  }
  return imported;
}
