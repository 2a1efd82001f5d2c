import type { FolderRole, MailDirection, MailboxProblem, MailboxState } from '@fulvet/core';
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
export interface MailboxRow {
  [column: string]: unknown;
  id: number;
  address: string;
  owner_id: number;
  kind: MailboxKind;
  state: MailboxState;
  aliases: string[];
  connection: MailboxConnection | null;
  direction: MailDirection;
  /** Milliseconds. */
  read_since: number | null;
  mark_filed: boolean;
  problem: MailboxProblem | null;
  revision: number;
  users: number[];
}

export interface FolderRow {
  [column: string]: unknown;
  id: number;
  path: string;
  role: FolderRole;
  followed: boolean;
  uid_validity: number | null;
  file_as: 'rules' | 'account' | 'lead' | 'deal' | 'contact' | null;
  file_record_id: number | null;
}

export type MailServices = Pick<Services, 'database' | 'keyRing' | 'network' | 'presets' | 'log'>;

export async function loadMailbox(db: Db | Tx, id: number): Promise<MailboxRow | null> {
  const { rows } = await db.execute<MailboxRow>(sql`
    SELECT m.id, m.address, m.owner_id, m.kind, m.state, m.aliases, m.connection, m.direction, (extract(epoch FROM m.read_since) * 1000)::float8 AS read_since, m.mark_filed, m.problem, m.revision,
      ARRAY(SELECT u.user_id FROM mailbox_users u WHERE u.mailbox_id = m.id ORDER BY u.user_id) AS users
    FROM mailboxes m WHERE m.id = ${id}`);
  return rows[0] ?? null;
}

export async function loadFolders(db: Db | Tx, mailboxId: number): Promise<FolderRow[]> {
  const { rows } = await db.execute<FolderRow>(
    sql`SELECT id, path, role, followed, uid_validity, file_as, file_record_id FROM mailbox_folders WHERE mailbox_id = ${mailboxId} AND present ORDER BY array_position(ARRAY['inbox','sent','archive','other'], role), path`,
  );
  return rows;
}
