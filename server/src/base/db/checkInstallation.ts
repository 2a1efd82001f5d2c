import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type pg from 'pg';

/** Something that has to be put right before an installation can start; its message says how. */
export class CannotStart extends Error {}

/**
 * Refuses a database that a newer version has changed already: this version would misread it.
 *
 * @throws {CannotStart}
 */
export async function demandKnownSchema(client: pg.PoolClient, migrationsFolder: string): Promise<void> {
  const { rows } = await client.query<{ there: boolean }>(`SELECT to_regclass('drizzle.__drizzle_migrations') IS NOT NULL AS there`);
  if (!rows[0]?.there) return;
  const journal = JSON.parse(readFileSync(join(migrationsFolder, 'meta', '_journal.json'), 'utf8')) as { entries: { when: number }[] };
  const newest = Math.max(...journal.entries.map((entry) => entry.when));
  const found = await client.query<{ newest: string | null }>('SELECT max(created_at) AS newest FROM drizzle.__drizzle_migrations');
  if (Number(found.rows[0]?.newest ?? 0) > newest)
    throw new CannotStart(
      'The database was brought up to date by a newer version of Fulvet, which this version cannot read. Nothing was changed. Start the newer version, or restore a backup that was made before.',
    );
}

/**
 * The two roles belong to the whole PostgreSQL server, and their passwords come from the installation's secret: a second installation on the same
 * server would lock the first one out. The roles carry a mark of the installation that they belong to.
 *
 * @throws {CannotStart} when they belong to another
 */
export async function claimRoles(client: pg.PoolClient, roles: readonly string[], secret: string): Promise<void> {
  const mark = `Fulvet installation ${createHash('sha256').update(`roles of ${secret}`).digest('hex').slice(0, 16)}`;
  for (const role of roles) {
    const { rows } = await client.query<{ mark: string | null }>(
      `SELECT shobj_description(oid, 'pg_authid') AS mark FROM pg_roles WHERE rolname = $1`,
      [role],
    );
    const found = rows[0]?.mark ?? null;
    if (found === mark) continue;
    if (found !== null && found.startsWith('Fulvet installation '))
      throw new CannotStart(
        `Another installation of Fulvet uses this PostgreSQL server, and its role “${role}”. Nothing was changed. Use a PostgreSQL server of its own for each, or the same secret.key for both. If the other is gone, run as the owner: COMMENT ON ROLE ${role} IS NULL`,
      );
    await client.query(`COMMENT ON ROLE ${role} IS '${mark}'`);
  }
}
