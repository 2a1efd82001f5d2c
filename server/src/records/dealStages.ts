import { dealStages as dealStagesTable } from '../base/db/schema';
import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { Refusal } from '../base/refusal';
import type { DealStage } from '@fulvet/contract';
import { sql, eq } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

const dealStageRow = z.object({ id: z.number(), name: z.string(), open: z.boolean() });

/** The stages in their order. */
export async function dealStages(tx: Tx): Promise<DealStage[]> {
  const rows = await rowsOf(tx, dealStageRow, sql`SELECT id, name, open FROM deal_stages ORDER BY position, id`);
  return rows.map(({ id, name, open }) => ({ id, name, open }));
}

const dealRow = z.object({ n: z.number() });

/** Sets the stages and their order. Deals follow a stage that is renamed, and open or close with it; one in which deals stand cannot go. */
export async function setDealStages(tx: Tx, userId: number, wanted: readonly DealStage[]): Promise<Refusal | null> {
  const names = wanted.map((item) => item.name.toLowerCase());
  const twice = names.find((name, at) => names.indexOf(name) !== at);
  if (twice !== undefined)
    return new Refusal('unfit', 'bad-input', `Two stages are called “${twice}”. Give each its own name.`, { stages: 'has a name twice' });
  const known = await dealStages(tx);
  for (const stage of known.filter((item) => !wanted.some((it) => it.id === item.id))) {
    const rows = await rowsOf(tx, dealRow, sql`SELECT count(*)::int AS n FROM deals WHERE lower(stage) = lower(${stage.name})`);
    const count = rows[0]?.n ?? 0;
    if (count > 0)
      return new Refusal(
        'conflict',
        'in-use',
        `${count} ${count === 1 ? 'deal stands' : 'deals stand'} at “${stage.name}”. Move them first; nothing was changed.`,
        { stages: 'is in use' },
      );
    if (stage.id !== null) await tx.delete(dealStagesTable).where(eq(dealStagesTable.id, stage.id));
  }
  // Names are told apart by the database: out of each other's way first, so that two can be swapped.
  await tx.execute(sql`UPDATE deal_stages SET name = name || ' (' || id || ')'`);
  for (const [position, stage] of wanted.entries()) {
    const before = known.find((item) => item.id === stage.id);
    if (!before || before.id === null) {
      await tx.insert(dealStagesTable).values({ name: stage.name, position, open: stage.open });
      continue;
    }
    await tx.update(dealStagesTable).set({ name: stage.name, position, open: stage.open }).where(eq(dealStagesTable.id, before.id));
    await tx.execute(sql`WITH moved AS (UPDATE deals SET stage = ${stage.name}, open = ${stage.open} WHERE lower(stage) = lower(${before.name}) AND (stage, open) IS DISTINCT FROM (${stage.name}, ${stage.open}) RETURNING id)
      INSERT INTO record_changes (kind, record_id, user_id, field, before, after) SELECT 'deal', id, ${userId}::bigint, 'stage', ${before.name}, ${stage.name} FROM moved`);
  }
  return null;
}
