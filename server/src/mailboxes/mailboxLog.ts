import { mailboxEvents, mailboxes } from '../base/db/schema';
import { idRow, rowsOf } from '../base/db/rows';
import type { FailureCode, MailboxProblem } from '@fulvet/core';
import { retryDelay } from '@fulvet/core';
import { sql, eq } from 'drizzle-orm';
import type { Db, Tx } from '../base/db/database';
import { announce } from '../base/live/changes';
import type { MailFailure } from '../base/network/mailFailure';
import type { MailServices, MailboxRow } from './mailbox';

/** Writes to the mailbox's own log. */
export async function noteEvent(
  db: Db | Tx,
  mailboxId: number,
  level: 'note' | 'problem' | 'solved',
  message: string,
  said = '',
): Promise<void> {
  await db.insert(mailboxEvents).values({ mailboxId, level, message: message.slice(0, 1000), said: said.slice(0, 1000) });
}

/** Open pages of those who look after the mailbox learn that it changed. */
export async function announceMailbox(db: Db | Tx, mailboxId: number): Promise<void> {
  const rows = await rowsOf(
    db,
    idRow,
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
  await db.update(mailboxes).set({ problem: null }).where(eq(mailboxes.id, mailbox.id));
  await noteEvent(
    db,
    mailbox.id,
    'solved',
    `Works again, after ${mailbox.problem.attempts === 1 ? 'one failure' : `${mailbox.problem.attempts} failures`}.`,
  );
  await announceMailbox(db, mailbox.id);
}

const EVENT_WORDS: Partial<Record<FailureCode, string>> = { dropped: 'The connection broke.', 'no-answer': 'The server does not answer.' };

const describeFailure = (code: FailureCode): string => EVENT_WORDS[code] ?? `Failed: ${code.replace(/-/g, ' ')}.`;
