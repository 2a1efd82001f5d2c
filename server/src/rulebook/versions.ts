import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { SQL } from 'drizzle-orm';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

const versionRow = z.object({
  version: z.number(),
  summary: z.string(),
  created_at: moment,
  by: z.string().nullable(),
  pilot_mailboxes: z.array(z.string()).nullable(),
  in_force: z.boolean(),
  document: z.unknown(),
});
/** A version of the rulebook as it is stored. */
export type VersionRow = z.infer<typeof versionRow>;

async function versionsWhere(tx: Tx, where: SQL): Promise<VersionRow[]> {
  return rowsOf(
    tx,
    versionRow,
    sql`
    SELECT r.version, r.summary, r.created_at, u.name AS by, r.pilot_mailboxes, r.document,
      CASE WHEN r.pilot_mailboxes IS NULL THEN r.version = (SELECT max(l.version) FROM rulebooks l WHERE l.pilot_mailboxes IS NULL) ELSE r.pilot_ended_at IS NULL END AS in_force
    FROM rulebooks r LEFT JOIN users u ON u.id = r.created_by WHERE ${where} ORDER BY r.version DESC LIMIT 200`,
  );
}

/** All versions, the newest first. */
export const allVersions = (tx: Tx): Promise<VersionRow[]> => versionsWhere(tx, sql`true`);

export async function loadVersion(tx: Tx, version: number): Promise<VersionRow | Refusal> {
  const [row] = await versionsWhere(tx, sql`r.version = ${version}`);
  if (!row) return notFound('version');
  return row;
}

/** The version that was in force for everyone when this one was put in force. */
export async function versionBefore(tx: Tx, version: number): Promise<VersionRow | undefined> {
  return (await versionsWhere(tx, sql`r.version < ${version} AND r.pilot_mailboxes IS NULL`))[0];
}
