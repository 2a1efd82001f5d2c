import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import type { DecisionFacts } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';

/** What people said by hand of emails and conversations: these are read the longer way. */
export interface ByHand {
  emails: ReadonlySet<number>;
  conversations: ReadonlySet<number>;
}

/** Where emails lie and whose they are: few rows, held once instead of being joined to every email. */
export interface Places {
  mailboxes: ReadonlyMap<number, { address: string; byRules: boolean; filing: boolean; takeIn: DecisionFacts['ownTakeIn'] }>;
  users: ReadonlyMap<number, string>;
  teams: ReadonlyMap<number, readonly string[]>;
}

const mailboxRow = z.object({
  id: z.number(),
  address: z.string(),
  by_rules: z.boolean(),
  filing: z.boolean(),
  take_in: z.enum(['known', 'rules', 'byHand']),
});

const teamMemberRow = z.object({ id: z.number(), email: z.string(), teams: z.array(z.string()).nullable() });

export async function loadPlaces(tx: Tx): Promise<Places> {
  const mailboxes = await rowsOf(
    tx,
    mailboxRow,
    sql`SELECT id, address, share = 'rules' AS by_rules, kind = 'filing' AS filing, take_in FROM mailboxes`,
  );
  const users = await rowsOf(
    tx,
    teamMemberRow,
    sql`SELECT u.id, lower(u.email) AS email, (SELECT array_agg(DISTINCT lower(t.name)) FROM team_members m JOIN teams t ON t.id = m.team_id WHERE m.user_id = u.id) AS teams FROM users u`,
  );
  return {
    mailboxes: new Map(
      mailboxes.map((row) => [row.id, { address: row.address, byRules: row.by_rules, filing: row.filing, takeIn: row.take_in }]),
    ),
    users: new Map(users.map((row) => [row.id, row.email])),
    teams: new Map(users.flatMap((row) => (row.teams ? [[row.id, row.teams] as const] : []))),
  };
}

const gestureRow = z.object({ email: z.number().nullable(), conversation: z.number().nullable() });

export async function loadByHand(tx: Tx): Promise<ByHand> {
  const rows = await rowsOf(
    tx,
    gestureRow,
    sql`SELECT email_id AS email, NULL::bigint AS conversation FROM gestures UNION SELECT NULL, e.conversation_id FROM pins p JOIN emails e ON e.id = p.email_id WHERE p.released_at IS NULL`,
  );
  return {
    emails: new Set(rows.flatMap((row) => row.email ?? [])),
    conversations: new Set(rows.flatMap((row) => row.conversation ?? [])),
  };
}
