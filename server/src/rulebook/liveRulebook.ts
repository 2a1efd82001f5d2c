import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import { compileRulebook, parsedRulebook, withMergedRecords } from '@fulvet/core';
import type { CompiledRulebook, Rulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { writeDown } from '../base/audit';
import type { Database, Db, Tx } from '../base/db/database';
import { loadLists } from './lists/loadLists';
import { shippedLists } from './lists/shippedLists';

/** The rulebook in force, with its version. */
export interface LiveRulebook {
  version: number;
  rulebook: Rulebook;
  compiled: CompiledRulebook;
}

/** Loads and compiles the rulebook in force. */
export async function liveRulebook(database: Database): Promise<LiveRulebook> {
  const { version, rulebook } = await storedRulebook(database.worker);
  return {
    version,
    rulebook,
    compiled: await compiledFor(database.worker, rulebook),
  };
}

/** Compiles a rulebook with the team's addresses and the address lists as they are now. @throws {BadPattern} */
export async function compiledFor(db: Db | Tx, rulebook: Rulebook): Promise<CompiledRulebook> {
  return compileRulebook(withMergedRecords(rulebook, await mergedRecords(db)), {
    ...(await team(db)),
    ...(await shippedLists(db)),
    lists: await loadLists(db, rulebook),
  });
}

const mergeRow = z.object({ kind: z.string(), gone_id: z.number(), kept_id: z.number() });

/** Records that went into others, as `kind:id` to the id of the one that stayed. */
async function mergedRecords(db: Db | Tx): Promise<Map<string, number>> {
  const rows = await rowsOf(db, mergeRow, sql`SELECT kind, gone_id, kept_id FROM merges WHERE undone_at IS NULL`);
  return new Map(rows.map((row) => [`${row.kind}:${row.gone_id}`, row.kept_id]));
}

const rulebookRow = z.object({ version: z.number(), document: z.unknown() });

/** @throws when the installation has not been set up */
export async function storedRulebook(db: Db | Tx): Promise<{ version: number; rulebook: Rulebook }> {
  const rows = await rowsOf(
    db,
    rulebookRow,
    sql`SELECT version, document FROM rulebooks WHERE pilot_mailboxes IS NULL ORDER BY version DESC LIMIT 1`,
  );
  const row = rows[0];
  if (!row) throw new Error('There is no rulebook yet: the installation has not been set up.');
  return { version: row.version, rulebook: parsedRulebook(row.document) };
}

const versionRow = z.object({ version: z.number() });

/** Puts a rulebook in force as the next version. @param pilotMailboxes for the mail of these mailboxes only; null: for all */
export async function putRulebook(
  db: Db | Tx,
  rulebook: Rulebook,
  summary: string,
  userId: number | null,
  pilotMailboxes: readonly string[] | null = null,
): Promise<number> {
  await db.execute(sql`SELECT pg_advisory_xact_lock(460204)`);
  const rows = await rowsOf(
    db,
    versionRow,
    sql`INSERT INTO rulebooks (version, document, summary, created_by, pilot_mailboxes)
    SELECT coalesce(max(version), 0) + 1, ${JSON.stringify(rulebook)}::jsonb, ${summary}, ${userId}::bigint, ${pilotMailboxes === null ? null : sql.param([...pilotMailboxes])}::text[] FROM rulebooks RETURNING version`,
  );
  const version = rows[0]?.version ?? 0;
  // What changed stands with the version; here no name and no address, since the log is never rewritten.
  if (userId !== null)
    await writeDown(db, await memberOf(db, userId), {
      kind: 'rules',
      about: `put version ${version} of the rulebook in force${pilotMailboxes === null ? '' : ' for a pilot'}`,
    });
  return version;
}

const userRow = z.object({ name: z.string() });

async function memberOf(db: Db | Tx, id: number): Promise<{ id: number; name: string }> {
  const rows = await rowsOf(db, userRow, sql`SELECT name FROM users WHERE id = ${id}`);
  return { id, name: rows[0]?.name ?? '' };
}

const teamRow = z.object({ address: z.string(), name: z.string().nullable() });

async function team(db: Db | Tx): Promise<{ teamAddresses: string[]; teamNames: string[] }> {
  const rows = await rowsOf(
    db,
    teamRow,
    // Addresses of mailboxes under our own domains are ours by these; others once an administrator confirmed them.
    sql`SELECT email AS address, name FROM users UNION SELECT t.address, NULL FROM team_addresses t WHERE EXISTS (SELECT FROM mailboxes m WHERE m.address = t.address OR t.address = ANY (m.aliases))`,
  );
  return { teamAddresses: rows.map((row) => row.address), teamNames: rows.flatMap((row) => row.name ?? []) };
}
