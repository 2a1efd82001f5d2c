import { rulebooks } from '../base/db/schema';
import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import type { Pilot } from '@fulvet/contract';
import { parsedRulebook } from '@fulvet/core';
import type { Rulebook } from '@fulvet/core';
import { sql, eq } from 'drizzle-orm';
import type { Tx } from '../base/db/database';

const RUNS = sql`pilot_mailboxes IS NOT NULL AND pilot_ended_at IS NULL`;

/** The rulebook that is tried for the mail of some mailboxes. */
export interface RunningPilot {
  version: number;
  rulebook: Rulebook;
  mailboxes: string[];
  summary: string;
  /** A version was put in force for everyone since it began. */
  behind: boolean;
}

const rulebookRow = z.object({
  version: z.number(),
  document: z.unknown(),
  pilot_mailboxes: z.array(z.string()),
  summary: z.string(),
  behind: z.boolean(),
});

export async function runningPilot(tx: Tx): Promise<RunningPilot | null> {
  const rows = await rowsOf(
    tx,
    rulebookRow,
    sql`SELECT r.version, r.document, r.pilot_mailboxes, r.summary, EXISTS (SELECT FROM rulebooks l WHERE l.pilot_mailboxes IS NULL AND l.version > r.version AND l.summary NOT LIKE 'Keep out %' AND l.summary NOT LIKE 'No longer keep out %') AS behind
      FROM rulebooks r WHERE ${RUNS}`,
  );
  const [row] = rows;
  return row
    ? {
        version: row.version,
        rulebook: parsedRulebook(row.document),
        mailboxes: row.pilot_mailboxes,
        summary: row.summary,
        behind: row.behind,
      }
    : null;
}

const mailboxRow = z.object({ address: z.string() });

/** Of these addresses, those that are of mailboxes. */
export async function mailboxesThere(tx: Tx, addresses: readonly string[]): Promise<ReadonlySet<string>> {
  const rows = await rowsOf(tx, mailboxRow, sql`SELECT address FROM mailboxes WHERE address = ANY(${sql.param([...addresses])}::text[])`);
  return new Set(rows.map((row) => row.address));
}

export async function endPilot(tx: Tx): Promise<void> {
  await tx.execute(sql`UPDATE rulebooks SET pilot_ended_at = now() WHERE ${RUNS}`);
}

/** Makes a change that takes effect at once in the pilot's rulebook as well. */
export async function changePilotToo(tx: Tx, change: (rulebook: Rulebook) => Rulebook): Promise<void> {
  const pilot = await runningPilot(tx);
  if (!pilot) return;
  await tx
    .update(rulebooks)
    .set({ document: change(pilot.rulebook) })
    .where(eq(rulebooks.version, pilot.version));
}

const figureRow = z.object({ is_group: z.boolean(), outcome: z.string(), emails: z.number(), everyone: z.number(), created: z.number() });
type FigureRow = z.infer<typeof figureRow>;

const emailRow = z.object({ at: z.string(), by: z.string().nullable(), first: moment.nullable() });

/** The pilot with its figures beside those of other mail, from the first email that it decided on. */
export async function pilotState(tx: Tx): Promise<Pilot | null> {
  const pilot = await runningPilot(tx);
  if (!pilot) return null;
  const about = await rowsOf(
    tx,
    emailRow,
    sql`SELECT r.created_at AS at, u.name AS by, (SELECT min(sent_at) FROM emails WHERE rulebook_version = ${pilot.version}) AS first
      FROM rulebooks r LEFT JOIN users u ON u.id = r.created_by WHERE r.version = ${pilot.version}`,
  );
  const [row] = about;
  const at = new Date(row?.at ?? 0).toISOString();
  const from = row?.first && row.first < at ? row.first : at;
  const rows = await rowsOf(
    tx,
    figureRow,
    sql`
    SELECT e.rulebook_version = ${pilot.version} AS is_group, coalesce(e.outcome, 'undecided') AS outcome, count(*)::int AS emails,
      count(*) FILTER (WHERE e.visibility = 'everyone')::int AS everyone,
      sum((SELECT count(*) FROM filings f WHERE f.email_id = e.id AND f.created))::int AS created
    FROM emails e WHERE e.sent_at >= ${from}::timestamptz AND e.decided_at IS NOT NULL GROUP BY 1, 2`,
  );
  const { rulebook: _, ...shown } = pilot;
  return {
    ...shown,
    at,
    by: row?.by ?? null,
    from,
    group: figures(rows.filter((item) => item.is_group)),
    others: figures(rows.filter((item) => !item.is_group)),
  };
}

function figures(rows: readonly FigureRow[]): Pilot['group'] {
  const total = (of: (row: FigureRow) => number): number => rows.reduce((sum, row) => sum + of(row), 0);
  return {
    emails: total((row) => row.emails),
    outcomes: Object.fromEntries(rows.map((row) => [row.outcome, row.emails])),
    everyone: total((row) => row.everyone),
    created: total((row) => row.created),
  };
}
