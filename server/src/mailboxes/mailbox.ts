import { z } from 'zod';
import { json, rowsOf } from '../base/db/rows';
import { mailboxKind, mailboxState } from '@fulvet/contract';
import { FOLDER_ROLES, RECORD_KINDS } from '@fulvet/core';
import type { MailboxProblem } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Db, Tx } from '../base/db/database';
import type { Endpoint } from '../base/network/network';
import type { Services } from '../base/services';

/** How a mailbox is reached, without its secret. */
export interface MailboxConnection {
  preset: string;
  imap: Endpoint;
  smtp: Endpoint;
  signIn: 'password' | 'redirect';
  userName: string;
}

export type MailboxKind = 'imported' | 'person' | 'shared' | 'filing';

/** A mailbox as workers need it. */
const mailboxRow = z.object({
  id: z.number(),
  address: z.string(),
  owner_id: z.number(),
  kind: mailboxKind,
  state: mailboxState,
  aliases: z.array(z.string()),
  connection: json<MailboxConnection>().nullable(),
  direction: z.enum(['sent', 'received', 'both']),
  /** Milliseconds. */
  read_since: z.number().nullable(),
  mark_filed: z.boolean(),
  problem: json<MailboxProblem>().nullable(),
  revision: z.number(),
  users: z.array(z.number()),
});
export type MailboxRow = z.infer<typeof mailboxRow>;

const folderRow = z.object({
  id: z.number(),
  path: z.string(),
  role: z.enum(FOLDER_ROLES),
  followed: z.boolean(),
  uid_validity: z.number().nullable(),
  file_as: z.enum(['rules', ...RECORD_KINDS]).nullable(),
  file_record_id: z.number().nullable(),
});
export type FolderRow = z.infer<typeof folderRow>;

export type MailServices = Pick<Services, 'database' | 'keyRing' | 'network' | 'presets' | 'log'>;

export async function loadMailbox(db: Db | Tx, id: number): Promise<MailboxRow | null> {
  const rows = await rowsOf(
    db,
    mailboxRow,
    sql`
    SELECT m.id, m.address, m.owner_id, m.kind, m.state, m.aliases, m.connection, m.direction, (extract(epoch FROM m.read_since) * 1000)::float8 AS read_since, m.mark_filed, m.problem, m.revision,
      ARRAY(SELECT u.user_id FROM mailbox_users u WHERE u.mailbox_id = m.id ORDER BY u.user_id) AS users
    FROM mailboxes m WHERE m.id = ${id}`,
  );
  return rows[0] ?? null;
}

export async function loadFolders(db: Db | Tx, mailboxId: number): Promise<FolderRow[]> {
  const rows = await rowsOf(
    db,
    folderRow,
    sql`SELECT id, path, role, followed, uid_validity, file_as, file_record_id FROM mailbox_folders WHERE mailbox_id = ${mailboxId} AND present ORDER BY array_position(ARRAY['inbox','sent','archive','other'], role), path`,
  );
  return rows;
}
