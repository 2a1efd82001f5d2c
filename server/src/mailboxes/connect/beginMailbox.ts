import { idRow, rowsOf } from '../../base/db/rows';
import { Refusal } from '../../base/refusal';
import type { FoundServers, User, newMailbox } from '@fulvet/contract';
import { domainOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Services } from '../../base/services';
import type { MailServices, MailboxConnection, MailboxRow } from '../mailbox';
import { mailboxKey } from '../mailboxKey';
import { announceMailbox, noteEvent } from '../mailboxLog';
import { dropSecret, putSecret } from './mailboxSecret';
import { resetChecks } from './runChecks';

type NewMailbox = z.output<typeof newMailbox>;

const mailboxRow = z.object({ id: z.number(), owner_id: z.number(), state: z.string() });

/**
 * Begins to connect a mailbox: an administrator any, others their own. One that was imported or disconnected before is taken up
 * with its history. Its mail is seen by those who use it only, until that is changed.
 *
 * @returns its id
 */
export async function beginMailbox(services: Services, user: User, wanted: NewMailbox): Promise<number | Refusal> {
  const ownerId = wanted.ownerId ?? user.id;
  if (user.role !== 'admin' && (wanted.kind !== 'person' || ownerId !== user.id))
    return new Refusal(
      'forbidden',
      'not-your-mailbox',
      'You can connect your own mailbox. Shared addresses and those of others are for administrators.',
    );
  const address = mailboxKey(wanted.address);
  const db = services.database.worker;
  const member = await rowsOf(db, idRow, sql`SELECT id FROM users WHERE lower(email) = ${address}`);
  const mailboxBelongsTo = member[0]?.id;
  if (mailboxBelongsTo !== undefined && mailboxBelongsTo !== user.id && user.role !== 'admin')
    return new Refusal('forbidden', 'not-your-mailbox', `${address} belongs to another member.`);
  const known = await rowsOf(db, mailboxRow, sql`SELECT id, owner_id, state FROM mailboxes WHERE address = ${address}`);
  const before = known[0];
  if (before && user.role !== 'admin' && before.owner_id !== user.id)
    return new Refusal('conflict', 'exists', `${address} is connected already, by another member.`);
  if (before && !['imported', 'closed', 'connecting'].includes(before.state))
    return new Refusal('conflict', 'exists', `${address} is connected already.`);
  const aliases = [...new Set(wanted.aliases.map(mailboxKey))];
  const owner = wanted.ownerId ?? before?.owner_id ?? mailboxBelongsTo ?? user.id;
  const rows = await rowsOf(
    db,
    idRow,
    sql`INSERT INTO mailboxes (address, owner_id, kind, state, aliases, share)
    VALUES (${address}, ${owner}, ${wanted.kind}, 'connecting', ${sql.param(aliases)}::text[], 'owner')
    ON CONFLICT (address) DO UPDATE SET kind = excluded.kind, state = 'connecting', aliases = excluded.aliases, problem = NULL RETURNING id`,
  );
  const id = rows[0]?.id ?? 0;
  await db.execute(
    sql`INSERT INTO mailbox_users (mailbox_id, user_id) SELECT ${id}::bigint, u.id FROM users u WHERE u.id = ANY(${sql.param(wanted.userIds)}::bigint[]) ON CONFLICT DO NOTHING`,
  );
  await noteEvent(db, id, 'note', `${user.name} began to connect it.`);
  return id;
}

/** The servers of an address: what its domain's service records say, else what a preset or an address of the same domain knows. */
export async function serversFor(services: MailServices, address: string): Promise<FoundServers> {
  const domain = domainOf(address).toLowerCase();
  const found = await services.network.findServers(domain);
  if (found) return { by: 'service records', preset: services.presets.ofHost(found.imap.host).id, ...found };
  const preset = services.presets.all().find((item) => item.hosts.includes(domain));
  if (preset) return { by: 'preset', preset: preset.id, imap: preset.imap, smtp: preset.smtp };
  return { by: 'nothing', preset: 'general', imap: null, smtp: null };
}

/**
 * Keeps how a mailbox is reached. A stored password is never sent to another server than the one it was given for.
 *
 * @param password undefined to keep the one that is stored
 */
export async function storeConnection(
  services: Services,
  mailbox: MailboxRow,
  connection: MailboxConnection,
  password: string | undefined,
): Promise<void> {
  const db = services.database.worker;
  const before = mailbox.connection;
  const sameServer =
    before !== null &&
    (['imap', 'smtp'] as const).every(
      (value) => before[value].host === connection[value].host && before[value].port === connection[value].port,
    ) &&
    before.signIn === connection.signIn &&
    before.userName === connection.userName;
  if (!sameServer && password === undefined) await dropSecret(services, mailbox.id);
  await db.execute(
    sql`UPDATE mailboxes SET connection = ${JSON.stringify(connection)}::jsonb, state = CASE WHEN state IN ('running', 'paused') THEN 'paused' WHEN state = 'stopped' THEN 'stopped' ELSE 'connecting' END WHERE id = ${mailbox.id}`,
  );
  if (password !== undefined) await putSecret(services, mailbox.id, { password });
  await resetChecks(db, mailbox.id, 'name');
  await noteEvent(
    db,
    mailbox.id,
    'note',
    password === undefined ? 'The way to the server was set.' : 'The way to the server and the password were set.',
  );
  await services.jobs.hurryMailbox(mailbox.id);
  await announceMailbox(db, mailbox.id);
}
