import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type pg from 'pg';

const MARK = /^COMMENT ON VIEW fulvet_readable IS '(sight [0-9a-f]{16})';$/m;

/** Brings what the database asks about who sees an email to this version's text, where it has another; in one transaction. */
export async function applySight(client: pg.PoolClient, migrationsFolder: string): Promise<void> {
  const text = readFileSync(join(migrationsFolder, 'repeatable', 'sight.sql'), 'utf8');
  const mark = MARK.exec(text)?.[1];
  const { rows } = await client.query<{ mark: string | null }>(
    `SELECT obj_description('public.fulvet_readable'::regclass, 'pg_class') AS mark`,
  );
  if (mark !== undefined && rows[0]?.mark === mark) return;
  await client.query('BEGIN');
  try {
    await client.query(text);
    await client.query('COMMIT');
  } catch (error) {
    await client.query('ROLLBACK');
    throw error;
  }
}
