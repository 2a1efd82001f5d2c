import { mailboxes as mailboxesTable, mailboxChecks } from '../base/db/schema';
import { z } from 'zod';
import { moment, rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import { sql, eq } from 'drizzle-orm';
import { writeDown } from '../base/audit';
import { takeMailLock } from '../base/db/mailLock';
import type { Handlers } from '../base/handler';
import { rotateKeys } from '../base/secrets/rotateKeys';
import { resetReaders } from '../emails/owners';
import { lookBackChoices } from './connect/lookBack';
import { dropSecret } from './connect/mailboxSecret';
import { revokeGrant } from './connect/providerSignIn';
import { detailOf, lookedAfter, mailServerError, raiseRevision, refuseSelf } from './lookedAfter';
import { mailboxList } from './mailboxList';
import { announceMailbox, noteEvent } from './mailboxLog';
import { putSettings } from './mailboxSettings';
import { startMailbox } from './startMailbox';

const EXPORT_PAGE = 1000;

const eventRow = z.object({
  id: z.number(),
  at: moment,
  level: z.enum(['note', 'problem', 'mended']),
  message: z.string(),
  said: z.string(),
});
type EventRow = z.infer<typeof eventRow>;

const eventOf = (row: EventRow) => ({
  id: row.id,
  at: row.at,
  level: row.level,
  message: row.message,
  said: row.said,
});

const userRow = z.object({ name: z.string() });

export const mailboxRoutes: Pick<
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
> = {
  listMailboxes: async ({ user, services }) => services.database.as(user.id, async (tx) => ({ mailboxes: await mailboxList(tx, user) })),

  getMailbox: ({ user, params, services }) => detailOf(services, user, params.id),

  getLookBack: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    try {
      return { choices: await lookBackChoices(services, mailbox) };
    } catch (error) {
      throw mailServerError(error);
    }
  },

  putMailboxSettings: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    const refused = await putSettings(services, user, mailbox, body);
    if (isRefusal(refused)) return refused;
    await raiseRevision(services, mailbox.id);
    return detailOf(services, user, params.id);
  },

  startMailbox: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    const refused = await startMailbox(services, user, mailbox.id);
    if (isRefusal(refused)) return refused;
    return detailOf(services, user, params.id);
  },

  pauseMailbox: async ({ user, params, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
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
    if (isRefusal(mailbox)) return mailbox;
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
    if (isRefusal(mailbox)) return mailbox;
    const { worker } = services.database;
    const secret = await dropSecret(services, mailbox.id);
    if (secret && 'refreshToken' in secret && mailbox.connection)
      await revokeGrant(services.presets.get(mailbox.connection.preset), secret.refreshToken);
    const { rowCount } = await worker.execute(
      sql`SELECT FROM mailboxes m WHERE m.id = ${mailbox.id} AND (EXISTS (SELECT FROM sightings s WHERE s.mailbox_id = m.id) OR EXISTS (SELECT FROM imports i WHERE i.mailbox_id = m.id))`,
    );
    if (rowCount) {
      await worker.update(mailboxesTable).set({ state: 'closed', problem: null, backlog: 0 }).where(eq(mailboxesTable.id, mailbox.id));
      await worker.delete(mailboxChecks).where(eq(mailboxChecks.mailboxId, mailbox.id));
      await noteEvent(worker, mailbox.id, 'note', `${user.name} disconnected it. Its history stays; the password is forgotten.`);
    } else await worker.delete(mailboxesTable).where(eq(mailboxesTable.id, mailbox.id));
    await services.jobs.hurryMailbox(mailbox.id);
    await announceMailbox(worker, mailbox.id);
    return {};
  },

  passOnMailbox: async ({ user, params, body, services }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    const rows = await rowsOf(services.database.worker, userRow, sql`SELECT name FROM users WHERE id = ${body.ownerId} AND active`);
    const next = rows[0];
    if (!next) return notFound('member');
    const refused = refuseSelf(user, mailbox.owner_id, body.ownerId === user.id);
    if (isRefusal(refused)) return refused;
    const emails = await services.database.work(async (tx) => {
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
    const refused = await lookedAfter(services, user, params.id);
    if (isRefusal(refused)) return refused;
    const rows = await services.database.as(user.id, (tx) =>
      rowsOf(
        tx,
        eventRow,
        sql`SELECT id, at, level, message, said FROM mailbox_events
      WHERE mailbox_id = ${params.id} AND (${query.before ?? null}::bigint IS NULL OR id < ${query.before ?? null}) ORDER BY id DESC LIMIT ${query.limit}`,
      ),
    );
    return { events: rows.map(eventOf) };
  },

  exportMailboxEvents: async ({ user, params, services, res }) => {
    const mailbox = await lookedAfter(services, user, params.id);
    if (isRefusal(mailbox)) return mailbox;
    res.set('Content-Type', 'application/jsonl; charset=utf-8');
    res.attachment(`mailbox-log-${mailbox.address.replace(/[^\w.@-]/g, '_')}.jsonl`);
    const lines = async function* (): AsyncGenerator<string> {
      for (let last = 0; ;) {
        const rows = await services.database.as(user.id, (tx) =>
          rowsOf(
            tx,
            eventRow,
            sql`SELECT id, at, level, message, said FROM mailbox_events WHERE mailbox_id = ${params.id} AND id > ${last} ORDER BY id LIMIT ${EXPORT_PAGE}`,
          ),
        );
        yield rows.map((row) => `${JSON.stringify(eventOf(row))}\n`).join('');
        if (rows.length < EXPORT_PAGE) return;
        last = rows.at(-1)?.id ?? last;
      }
    };
    const refused = await services.downloads.send(user, res, lines());
    if (isRefusal(refused)) return refused;
    return undefined;
  },

  rotateMailKeys: async ({ services }) => ({ sealed: await rotateKeys(services) }),
};
