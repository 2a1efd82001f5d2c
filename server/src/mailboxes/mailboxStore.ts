import type { FailureCode, FolderRole, MailDirection, MailboxProblem, MailboxState } from '@fulvet/core';
import { retryDelay } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Db, Tx } from '../base/db/database';
import { announce } from '../base/live/changes';
import { MailFailure } from '../base/network/mailFailure';
import type { Endpoint } from '../base/network/network';
import { SealBroken } from '../base/secrets/keyRing';
import { mailboxBelongsTo } from '../base/secrets/sealedFor';
import type { Services } from '../base/services';
import type { MailTarget } from './mailConnection';
import type { Grant } from './providerSignIn';
import { refreshGrant } from './providerSignIn';

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

export type Secret = { password: string } | Grant;

export type MailServices = Pick<Services, 'database' | 'keyRing' | 'network' | 'presets' | 'log'>;

/** A token is renewed when it has less than this left. */
const RENEW_BEFORE_MS = 60_000;

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

/** Writes to the mailbox's own log. */
export async function noteEvent(
  db: Db | Tx,
  mailboxId: number,
  level: 'note' | 'problem' | 'mended',
  message: string,
  said = '',
): Promise<void> {
  await db.execute(
    sql`INSERT INTO mailbox_events (mailbox_id, level, message, said) VALUES (${mailboxId}, ${level}, ${message.slice(0, 1000)}, ${said.slice(0, 1000)})`,
  );
}

/** Open pages of those who look after the mailbox learn that it changed. */
export async function announceMailbox(db: Db | Tx, mailboxId: number): Promise<void> {
  const { rows } = await db.execute<{ id: number }>(
    sql`SELECT owner_id AS id FROM mailboxes WHERE id = ${mailboxId} UNION SELECT user_id FROM mailbox_users WHERE mailbox_id = ${mailboxId} UNION SELECT id FROM users WHERE role = 'admin' AND active`,
  );
  await announce(db, { kind: 'mailbox', id: mailboxId, to: rows.map((row) => row.id) });
}

/** Notes a failure: how often by now, when to try again, and whether a person has to act first. @returns when to try again */
export async function noteProblem(services: MailServices, mailbox: MailboxRow, failure: MailFailure, now: number): Promise<number | null> {
  const db = services.database.worker;
  const before = mailbox.problem;
  const attempts = before?.code === failure.code ? before.attempts + 1 : 1;
  const delay = retryDelay(failure.code, attempts);
  const problem: MailboxProblem = {
    code: failure.code,
    since: before?.since ?? now,
    attempts,
    retryAt: delay === null ? null : now + delay,
    remedy: services.presets.remedyOf(mailbox.connection?.preset ?? 'general', failure.code),
    said: failure.said,
  };
  await db.execute(
    sql`UPDATE mailboxes SET problem = ${JSON.stringify(problem)}::jsonb, state = CASE WHEN ${delay === null} AND state = 'running' THEN 'stopped' ELSE state END WHERE id = ${mailbox.id}`,
  );
  await noteEvent(
    db,
    mailbox.id,
    'problem',
    `${describeFailure(failure.code)}${delay === null ? ' Stopped; a person has to act.' : ` Trying again in ${Math.round(delay / 1000)} seconds.`}`,
    failure.said,
  );
  await announceMailbox(db, mailbox.id);
  return problem.retryAt;
}

export async function clearProblem(services: MailServices, mailbox: MailboxRow): Promise<void> {
  if (mailbox.problem === null) return;
  const db = services.database.worker;
  await db.execute(sql`UPDATE mailboxes SET problem = NULL WHERE id = ${mailbox.id}`);
  await noteEvent(
    db,
    mailbox.id,
    'mended',
    `Works again, after ${mailbox.problem.attempts === 1 ? 'one failure' : `${mailbox.problem.attempts} failures`}.`,
  );
  await announceMailbox(db, mailbox.id);
}

const EVENT_WORDS: Partial<Record<FailureCode, string>> = { dropped: 'The connection broke.', 'no-answer': 'The server does not answer.' };

const describeFailure = (code: FailureCode): string => EVENT_WORDS[code] ?? `Failed: ${code.replace(/-/g, ' ')}.`;

export async function putSecret(services: Pick<Services, 'database' | 'keyRing'>, mailboxId: number, secret: Secret): Promise<void> {
  const sealed = services.keyRing.seal(JSON.stringify(secret), mailboxBelongsTo(mailboxId));
  await services.database.worker.execute(
    sql`INSERT INTO mailbox_secrets (mailbox_id, sealed) VALUES (${mailboxId}, ${sealed}) ON CONFLICT (mailbox_id) DO UPDATE SET sealed = excluded.sealed, changed_at = now()`,
  );
}

export async function dropSecret(services: Pick<Services, 'database' | 'keyRing'>, mailboxId: number): Promise<Secret | null> {
  const { rows } = await services.database.worker.execute<{ sealed: string }>(
    sql`DELETE FROM mailbox_secrets WHERE mailbox_id = ${mailboxId} RETURNING sealed`,
  );
  try {
    return rows[0] ? opened(services, mailboxId, rows[0].sealed) : null;
  } catch {
    return null;
  }
}

/**
 * Everything needed to connect. A token that runs out is renewed first; processes do that one after the other.
 *
 * @param renew renew the token in any case, since the server refused it
 * @throws {MailFailure}
 */
export async function targetOf(services: MailServices, mailbox: Pick<MailboxRow, 'id' | 'connection'>, renew = false): Promise<MailTarget> {
  const { connection } = mailbox;
  if (!connection) throw new MailFailure('sign-in-refused', 'The mailbox has no server yet.');
  const preset = services.presets.get(connection.preset);
  const secret = await services.database.worker.transaction(async (tx) => {
    const { rows } = await tx.execute<{ sealed: string }>(
      sql`SELECT sealed FROM mailbox_secrets WHERE mailbox_id = ${mailbox.id} FOR UPDATE`,
    );
    if (!rows[0]) throw new MailFailure('sign-in-refused', 'No password or permission is stored.');
    const known = opened(services, mailbox.id, rows[0].sealed);
    if ('password' in known || (!renew && known.expiresAt - Date.now() > RENEW_BEFORE_MS)) return known;
    const fresh = await refreshGrant(preset, known.refreshToken);
    const sealed = services.keyRing.seal(JSON.stringify(fresh), mailboxBelongsTo(mailbox.id));
    await tx.execute(sql`UPDATE mailbox_secrets SET sealed = ${sealed}, changed_at = now() WHERE mailbox_id = ${mailbox.id}`);
    return fresh;
  });
  return {
    imap: connection.imap,
    smtp: connection.smtp,
    userName: connection.userName,
    secret: 'password' in secret ? { password: secret.password } : { accessToken: secret.accessToken },
    trust: preset.trust,
  };
}

function opened(services: Pick<Services, 'keyRing'>, mailboxId: number, sealed: string): Secret {
  try {
    return JSON.parse(services.keyRing.open(sealed, mailboxBelongsTo(mailboxId))) as Secret;
  } catch (error) {
    if (error instanceof SealBroken) throw new MailFailure('secret-unreadable');
    throw error;
  }
}
