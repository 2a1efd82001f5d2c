import { writeDown } from '../base/audit';
import { sql } from 'drizzle-orm';
import { takeMailLock } from '../base/db/mailLock';
import { lookBackChoices } from '../mailboxes/connect/lookBack';
import { mailboxList } from '../mailboxes/mailboxList';
import { announceMailbox, noteEvent } from '../mailboxes/mailboxLog';
import { dropSecret } from '../mailboxes/connect/mailboxSecret';
import { rotateKeys } from '../base/secrets/rotateKeys';
import { resetReaders } from '../emails/owners';
import { revokeGrant } from '../mailboxes/connect/providerSignIn';
import { putSettings } from '../mailboxes/mailboxSettings';
import { startMailbox } from '../mailboxes/startMailbox';
import { notFound } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { detailOf, lookedAfter, mailServerError, raiseRevision, refuseSelf } from '../mailboxes/lookedAfter';

type MailboxHandlers = Pick<
  Handlers,
  | 'listMailboxes'
  | 'getMailbox'
  | 'getLookBack'
  | 'putMailboxSettings'
  | 'startMailbox'
  | 'pauseMailbox'
  | 'retryMailbox'
  | 'disconnectMailbox'
  | 'passOnMailbox'
  | 'listMailboxEvents'
  | 'exportMailboxEvents'
  | 'rotateMailKeys'
  | 'streamChanges'
>;

const STREAM_MS = 10 * 60_000;
const KEEP_ALIVE_MS = 25_000;
const EXPORT_PAGE = 1000;

export const mailboxHandlers: MailboxHandlers = {
  listMailboxes: async ({ user, services }) => services.database.as(user.id, async (tx) => ({ mailboxes: await mailboxList(tx, user) })),

  getMailbox: ({ user, params, services }) => detailOf(services, user, params.id),

  getLookBack: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    try {
      return { choices: await lookBackChoices(services, mailbox) };
    } catch (error) {
      throw mailServerError(error);
    }
  },

  putMailboxSettings: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    await putSettings(services, user, mailbox, body);
    await raiseRevision(services, mailbox.id);
    return detailOf(services, user, params.id);
  },

  startMailbox: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    await startMailbox(services, user, mailbox.id);
    return detailOf(services, user, params.id);
  },

  pauseMailbox: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    await services.database.worker.execute(
      sql`UPDATE mailboxes SET state = 'paused' WHERE id = ${mailbox.id} AND state IN ('running', 'stopped')`,
    );
    await noteEvent(services.database.worker, mailbox.id, 'note', `${user.name} paused it.`);
    await services.jobs.hurryMailbox(mailbox.id);
    await announceMailbox(services.database.worker, mailbox.id);
    return detailOf(services, user, params.id);
  },

  retryMailbox: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    await services.database.worker.execute(
      sql`UPDATE mailboxes SET state = 'running', problem = jsonb_set(problem, '{retryAt}', '0') WHERE id = ${mailbox.id} AND state IN ('running', 'stopped') AND problem IS NOT NULL`,
    );
    await noteEvent(services.database.worker, mailbox.id, 'note', `${user.name} asked to try again now.`);
    await services.jobs.hurryMailbox(mailbox.id);
    await announceMailbox(services.database.worker, mailbox.id);
    return detailOf(services, user, params.id);
  },

  disconnectMailbox: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    const { worker } = services.database;
    const secret = await dropSecret(services, mailbox.id);
    if (secret && 'refreshToken' in secret && mailbox.connection)
      await revokeGrant(services.presets.get(mailbox.connection.preset), secret.refreshToken);
    const { rowCount } = await worker.execute(
      sql`SELECT FROM mailboxes m WHERE m.id = ${mailbox.id} AND (EXISTS (SELECT FROM sightings s WHERE s.mailbox_id = m.id) OR EXISTS (SELECT FROM imports i WHERE i.mailbox_id = m.id))`,
    );
    if (rowCount) {
      await worker.execute(sql`UPDATE mailboxes SET state = 'closed', problem = NULL, backlog = 0 WHERE id = ${mailbox.id}`);
      await worker.execute(sql`DELETE FROM mailbox_checks WHERE mailbox_id = ${mailbox.id}`);
      await noteEvent(worker, mailbox.id, 'note', `${user.name} disconnected it. Its history stays; the password is forgotten.`);
    } else await worker.execute(sql`DELETE FROM mailboxes WHERE id = ${mailbox.id}`);
    await services.jobs.hurryMailbox(mailbox.id);
    await announceMailbox(worker, mailbox.id);
    return {};
  },

  passOnMailbox: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    const { rows } = await services.database.worker.execute<{ name: string }>(
      sql`SELECT name FROM users WHERE id = ${body.ownerId} AND active`,
    );
    const next = rows[0];
    if (!next) throw notFound('member');
    refuseSelf(user, mailbox.owner_id, body.ownerId === user.id);
    const emails = await services.database.worker.transaction(async (tx) => {
      await takeMailLock(tx);
      await tx.execute(sql`UPDATE mailboxes SET owner_id = ${body.ownerId}, revision = revision + 1 WHERE id = ${mailbox.id}`);
      await noteEvent(tx, mailbox.id, 'note', `${user.name} gave it to ${next.name}.`);
      await writeDown(tx, user, {
        kind: 'mailbox',
        about: `gave the mailbox ${mailbox.address} with all its mail to ${next.name}`,
        subjectId: mailbox.owner_id,
      });
      return resetReaders(tx, mailbox.id);
    });
    await raiseRevision(services, mailbox.id);
    await services.jobs.decidePending();
    return { emails };
  },

  listMailboxEvents: async ({ user, params, query, services }) => {
    await lookedAfter(services, user, params.id);
    const { rows } = await services.database.as(user.id, (tx) =>
      tx.execute<EventRow>(sql`SELECT id, at, level, message, said FROM mailbox_events
      WHERE mailbox_id = ${params.id} AND (${query.before ?? null}::bigint IS NULL OR id < ${query.before ?? null}) ORDER BY id DESC LIMIT ${query.limit}`),
    );
    return { events: rows.map(eventOf) };
  },

  exportMailboxEvents: async ({ user, params, services, res }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    res.set('Content-Type', 'application/jsonl; charset=utf-8');
    res.attachment(`mailbox-log-${mailbox.address.replace(/[^\w.@-]/g, '_')}.jsonl`);
    for (let last = 0; ;) {
      const { rows } = await services.database.as(user.id, (tx) =>
        tx.execute<EventRow>(
          sql`SELECT id, at, level, message, said FROM mailbox_events WHERE mailbox_id = ${params.id} AND id > ${last} ORDER BY id LIMIT ${EXPORT_PAGE}`,
        ),
      );
      for (const row of rows) res.write(`${JSON.stringify(eventOf(row))}\n`);
      if (rows.length < EXPORT_PAGE) break;
      last = rows.at(-1)?.id ?? last;
    }
    res.end();
    return undefined;
  },

  rotateMailKeys: async ({ services }) => ({ sealed: await rotateKeys(services) }),

  streamChanges: ({ user, services, req, res }) => {
    res.set({ 'Content-Type': 'text/event-stream', 'X-Accel-Buffering': 'no' });
    res.flushHeaders();
    res.write('retry: 2000\n\n');
    const end = (): void => {
      deaf();
      clearInterval(alive);
      clearTimeout(over);
      services.changes.streams.delete(end);
      res.end();
    };
    const deaf = services.changes.hear((change) => {
      if (change.kind === 'wake') return;
      if (change.to !== 'everyone' && !change.to.includes(user.id)) return;
      const told = change.kind === 'mail' ? { kind: 'mail', records: change.records } : { kind: 'mailbox', id: change.id };
      res.write(`data: ${JSON.stringify(told)}\n\n`);
    });
    const alive = setInterval(() => res.write(': here\n\n'), KEEP_ALIVE_MS);
    // The page connects again, and who it is for is asked anew.
    const over = setTimeout(end, STREAM_MS);
    services.changes.streams.add(end);
    req.on('close', end);
    return Promise.resolve(undefined);
  },
};

interface EventRow {
  [column: string]: unknown;
  id: number;
  at: string;
  level: 'note' | 'problem' | 'mended';
  message: string;
  said: string;
}

const eventOf = (row: EventRow) => ({
  id: row.id,
  at: new Date(row.at).toISOString(),
  level: row.level,
  message: row.message,
  said: row.said,
});
