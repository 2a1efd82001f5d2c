import { z } from 'zod';
import { json, moment, rowsOf } from '../base/db/rows';
import { mailboxKind, mailboxState } from '@fulvet/contract';
import { notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { Mailbox, MailboxDetail, User } from '@fulvet/contract';
import type { MailboxProblem } from '@fulvet/core';
import { FOLDER_ROLES, CHECK_STEPS, CHECK_TITLES, healthOf, RECORD_KINDS } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../base/db/database';
import type { MailboxConnection } from './mailbox';

const listRow = z.object({
  id: z.number(),
  address: z.string(),
  owner_id: z.number(),
  owner: z.string(),
  kind: mailboxKind,
  state: mailboxState,
  problem: json<MailboxProblem>().nullable(),
  last_contact: z.number().nullable(),
  delay_ms: z.number().nullable(),
  backlog: z.number(),
  started: z.number().nullable(),
  emails: z.number(),
  newest: moment.nullable(),
  per_day: z.array(z.number()),
  passed: z.number(),
});
type ListRow = z.infer<typeof listRow>;

/** All mailboxes, or one, with how they are doing: the health of those that the reader looks after, the mail of those that they use as well. */
export async function mailboxList(tx: Tx, user: User, only: number | null = null): Promise<Mailbox[]> {
  const rows = await rowsOf(
    tx,
    listRow,
    sql`
    SELECT m.id, m.address, m.owner_id, u.name AS owner, m.kind, m.state, m.problem, (extract(epoch FROM m.last_contact_at) * 1000)::float8 AS last_contact, m.delay_ms, m.backlog,
      (extract(epoch FROM m.started_at) * 1000)::float8 AS started, coalesce(n.emails, 0) AS emails, n.sent_at AS newest, coalesce(n.per_day, '{}') AS per_day,
      (SELECT count(*)::int FROM mailbox_checks c WHERE c.mailbox_id = m.id AND c.state = 'passed') AS passed
    FROM mailboxes m JOIN users u ON u.id = m.owner_id LEFT JOIN fulvet_mailbox_mail(${only}::bigint) n ON n.mailbox_id = m.id
    WHERE ${only === null ? sql`true` : sql`m.id = ${only}`} ORDER BY m.address`,
  );
  return rows.map((row) => mailboxOf(row, user));
}

function mailboxOf(row: ListRow, user: User): Mailbox {
  const lookedAfter = user.role === 'admin' || row.owner_id === user.id;
  const health = healthOf(
    {
      state: row.state,
      problem: row.problem,
      lastContactAt: row.last_contact,
      backlog: row.backlog,
      checked: row.passed === CHECK_STEPS.length,
      startedAt: row.started,
    },
    Date.now(),
  );
  return {
    id: row.id,
    address: row.address,
    owner: row.owner,
    ownerId: row.owner_id,
    kind: row.kind,
    state: row.state,
    emails: row.emails,
    newest: row.newest,
    lookedAfter,
    health: lookedAfter
      ? { ...health, problem: health.problem && { ...health.problem, since: new Date(health.problem.since).toISOString() } }
      : null,
    lastContactAt: row.last_contact === null ? null : new Date(row.last_contact).toISOString(),
    delayMs: row.delay_ms,
    backlog: row.backlog,
    perDay: row.per_day,
  };
}

const detailRow = z.object({
  aliases: z.array(z.string()),
  connection: json<MailboxConnection>().nullable(),
  direction: z.enum(['sent', 'received', 'both']),
  read_since: moment.nullable(),
  share: z.enum(['owner', 'rules']),
  take_in: z.enum(['known', 'rules', 'byHand']),
  mark_filed: z.boolean(),
  users_send: z.boolean(),
  measures: z.boolean(),
  started_at: moment.nullable(),
});

const mailboxUserRow = z.object({ id: z.number(), name: z.string() });

/** @returns a refusal for those who do not look after it */
export async function mailboxDetail(tx: Tx, user: User, id: number, hasSecret: boolean): Promise<MailboxDetail | Refusal> {
  const [mailbox] = await mailboxList(tx, user, id);
  if (!mailbox?.lookedAfter) return notFound('mailbox');
  const rows = await rowsOf(
    tx,
    detailRow,
    sql`SELECT aliases, connection, direction, read_since, share, take_in, mark_filed, users_send, measures, started_at FROM mailboxes WHERE id = ${id}`,
  );
  const row = rows[0];
  if (!row) return notFound('mailbox');
  const users = await rowsOf(
    tx,
    mailboxUserRow,
    sql`SELECT u.id, u.name FROM mailbox_users m JOIN users u ON u.id = m.user_id WHERE m.mailbox_id = ${id} ORDER BY u.name`,
  );
  const checks = await checksOf(tx, id);
  return {
    ...mailbox,
    aliases: row.aliases,
    users,
    connection: row.connection && { ...row.connection, hasSecret },
    checks,
    checked: checks.every((check) => check.state === 'passed'),
    folders: await foldersOf(tx, id),
    direction: row.direction,
    readSince: row.read_since,
    share: row.share,
    takeIn: row.take_in,
    markFiled: row.mark_filed,
    usersSend: row.users_send,
    measures: row.measures,
    startedAt: row.started_at,
  };
}

const mailboxCheckRow = z.object({
  step: z.enum(CHECK_STEPS),
  state: z.enum(['waiting', 'passed', 'failed', 'running']),
  message: z.string(),
  remedy: z.string(),
  said: z.string(),
  code: z.string().nullable(),
  ms: z.number().nullable(),
});

async function checksOf(tx: Tx, id: number): Promise<MailboxDetail['checks']> {
  const rows = await rowsOf(
    tx,
    mailboxCheckRow,
    sql`SELECT step, state, message, remedy, said, code, ms FROM mailbox_checks WHERE mailbox_id = ${id}`,
  );
  const byStep = new Map(rows.map((row) => [row.step, row]));
  return CHECK_STEPS.map((step) => ({
    ...(byStep.get(step) ?? { step, state: 'waiting' as const, message: '', remedy: '', said: '', code: null, ms: null }),
    title: CHECK_TITLES[step],
  }));
}

const mailboxFolderRow = z.object({
  id: z.number(),
  path: z.string(),
  role: z.enum(FOLDER_ROLES),
  followed: z.boolean(),
  pending: z.number(),
  total: z.number(),
  file_as: z.enum(['rules', ...RECORD_KINDS]).nullable(),
  file_record_id: z.number().nullable(),
  record: z.string(),
  seen: z.boolean(),
});

async function foldersOf(tx: Tx, id: number): Promise<MailboxDetail['folders']> {
  const rows = await rowsOf(
    tx,
    mailboxFolderRow,
    sql`SELECT f.id, f.path, f.role, f.followed, f.pending, f.total, f.file_as, f.file_record_id, r.id IS NOT NULL AS seen, coalesce(r.name, '') AS record
    FROM mailbox_folders f LEFT JOIN records r ON r.kind = f.file_as AND r.id = f.file_record_id
    WHERE f.mailbox_id = ${id} AND f.present ORDER BY array_position(ARRAY['inbox','sent','archive','other','all','drafts','junk','trash'], f.role), f.path`,
  );
  return rows.map((row) => ({
    id: row.id,
    path: row.path,
    role: row.role,
    followed: row.followed,
    pending: row.pending,
    total: row.total,
    fileAs: row.file_as === null ? null : { target: row.file_as, recordId: row.seen ? row.file_record_id : null, recordName: row.record },
  }));
}
