import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { sql } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import type { Database } from '../base/db/database';
import type { Sources } from '../base/reading/sources';
import { isDamaged, markDamaged, problemsWithoutDamage } from './damagedSources';

const BATCH = 500;

/** What a comparison of emails with their sources found. */
export interface Verified {
  sources: number;
  /** Emails whose source is gone or is not what was stored, by their ids. */
  damaged: { id: number; reason: string }[];
  /** Emails that were marked damaged before and are whole. */
  whole: number;
}

const emailRow = z.object({
  id: z.number(),
  sha256: z.string(),
  pack: z.string(),
  position: z.number(),
  length: z.number(),
  size: z.number(),
});

/**
 * Compares every email with its source: whether it is there, whole, and the same as when it was stored. Damaged ones are marked, and mail servers are
 * asked for them again; a copy that says the same as the email did repairs it.
 */
export async function verifySources(
  database: Database,
  sources: Sources,
  say: (line: string) => void = () => undefined,
): Promise<Verified> {
  const found: Verified = { sources: 0, damaged: [], whole: 0 };
  for (let after = 0; ;) {
    const rows = await rowsOf(
      database.worker,
      emailRow,
      sql`
      SELECT e.id, b.sha256, b.pack, b.position, b.length, b.size FROM emails e JOIN blobs b ON b.sha256 = e.blob WHERE e.id > ${after} ORDER BY e.id LIMIT ${BATCH}`,
    );
    const last = rows.at(-1);
    if (!last) break;
    const reasons = await Promise.all(rows.map((row) => damageOf(sources, row)));
    const damaged = rows.flatMap(({ id }, at) => (reasons[at] ? [{ id, reason: reasons[at] }] : []));
    await mark(
      database,
      damaged.map(({ id }) => id),
      rows.map(({ id }) => id),
      found,
    );
    found.damaged.push(...damaged);
    found.sources += rows.length;
    after = last.id;
    if (found.sources % 10_000 < BATCH) say(`${found.sources} sources read`);
  }
  return found;
}

async function damageOf(
  sources: Sources,
  place: { sha256: string; pack: string; position: number; length: number; size: number },
): Promise<string | null> {
  try {
    const source = await sources.get(place);
    return createHash('sha256').update(source).digest('hex') === place.sha256 ? null : 'it is not what was stored';
  } catch {
    return 'it is gone or cannot be read';
  }
}

async function mark(database: Database, damaged: readonly number[], looked: readonly number[], found: Verified): Promise<void> {
  await database.work(async (tx) => {
    const whole = looked.filter((id) => !damaged.includes(id));
    const { rowCount } = await tx.execute(
      sql`UPDATE emails e SET problems = ${problemsWithoutDamage} WHERE e.id = ANY(${sql.param(whole)}::bigint[]) AND ${isDamaged}`,
    );
    found.whole += rowCount ?? 0;
    if (damaged.length === 0) return;
    await markDamaged(tx, damaged);
    await tx.execute(sql`DELETE FROM folder_messages WHERE email_id = ANY(${sql.param([...damaged])}::bigint[])`);
  });
}
