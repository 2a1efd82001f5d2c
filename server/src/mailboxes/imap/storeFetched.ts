import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import { fromForm, receiverOf, withCompanyAuthor } from '@fulvet/core';
import type { CompiledRulebook, EmailFacts } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Sources } from '../../base/reading/sources';
import type { Db, Tx } from '../../base/db/database';
import { ownersIn } from '../../emails/owners';
import type { MailboxReaders } from '../../emails/owners';
import type { ReadMessage } from '../../emails/store/readMessage';
import { storeBatch } from '../../emails/store/storeBatch';
import type { FolderRow, MailboxRow } from '../mailbox';
import { isConnectionTest } from '../connect/connectionTest';
import type { Lease } from './lease';

/** A message as it was read from the server. */
export interface Fetched {
  uid: number;
  raw: Uint8Array;
  /** When the server took it in, milliseconds. */
  internalDate: number;
}

/** Where a batch was read, and by what right it is written. */
export interface FetchPlace {
  db: Db;
  blobs: Sources;
  lease: Lease;
  mailbox: MailboxRow;
  folder: FolderRow;
  uidValidity: number;
  rulebook: CompiledRulebook;
  readers: MailboxReaders;
}

/**
 * Stores what was read, with the message numbers that are dealt with by that, in one transaction under the lease. Doing it again
 * changes nothing.
 *
 * @param missing numbers that were asked for and did not come
 */
export async function storeFetched(place: FetchPlace, fetched: readonly Fetched[], missing: readonly number[]): Promise<void> {
  const receiver = receiverOf(place.rulebook.ownDomains, place.mailbox.address, place.mailbox.connection?.imap.host ?? null);
  const found = await place.blobs.read(fetched.map(({ raw, internalDate }) => ({ raw, options: { arrivedAt: internalDate, receiver } })));
  const facts = found.map((item) => fromForm(withCompanyAuthor(item, place.rulebook.isPublicProvider), place.rulebook));
  const read = fetched.map((message, at) => asRead(place, message, facts[at]));
  const wanted = read.filter((item) => isWanted(place, item.message));
  const passedOver = read.filter((item) => !wanted.includes(item)).map((item) => item.uid);
  if (wanted.length === 0) {
    await place.db.transaction(async (tx) => {
      await place.lease.check(tx);
      await settle(tx, place, [], [], passedOver, missing);
    });
    return;
  }
  const batch = wanted.map((item) => item.message);
  const sighting = { mailboxId: place.mailbox.id, folder: place.folder.path, importId: null, arrivedAt: Date.now() };
  await storeBatch(place.db, place.blobs, batch, sighting, place.rulebook, async (tx, emailIds) => {
    await place.lease.check(tx);
    await settle(
      tx,
      place,
      emailIds,
      wanted.map((item) => item.uid),
      passedOver,
      missing,
    );
    await noteFolderGesture(tx, place, emailIds);
  });
}

function asRead(place: FetchPlace, fetched: Fetched, facts: EmailFacts | undefined): { uid: number; message: ReadMessage } {
  if (!facts) throw new Error('a message was not read');
  return {
    uid: fetched.uid,
    message: { raw: fetched.raw, facts, file: '', position: fetched.uid, ownerIds: ownersIn(place.readers, facts) },
  };
}

function isWanted({ mailbox }: FetchPlace, { facts }: ReadMessage): boolean {
  if (isConnectionTest(facts, mailbox.address)) return false;
  if (mailbox.direction === 'both') return true;
  const sender = facts.participants.find((participant) => participant.role === 'from')?.address ?? '';
  const isSent = sender === mailbox.address || mailbox.aliases.includes(sender);
  return isSent === (mailbox.direction === 'sent');
}

async function settle(
  tx: Tx,
  place: FetchPlace,
  emailIds: readonly number[],
  uids: readonly number[],
  passedOver: readonly number[],
  missing: readonly number[],
): Promise<void> {
  const rows = [
    ...uids.map((uid, at) => ({ uid, email: emailIds[at] ?? null, note: '' })),
    ...passedOver.map((uid) => ({ uid, email: null, note: 'passed over' })),
    ...missing.map((uid) => ({ uid, email: null, note: 'no content' })),
  ];
  await tx.execute(sql`INSERT INTO folder_messages (folder_id, uid_validity, uid, email_id, note)
    SELECT ${place.folder.id}::bigint, ${place.uidValidity}::bigint, uid, email, note FROM json_to_recordset(${JSON.stringify(rows)}::json) AS r(uid bigint, email bigint, note text)
    ON CONFLICT (folder_id, uid_validity, uid) DO UPDATE SET email_id = coalesce(excluded.email_id, folder_messages.email_id), note = excluded.note, tries = folder_messages.tries + 1, gone_at = NULL`);
}

const gestureRow = z.object({ email_id: z.number() });

async function noteFolderGesture(tx: Tx, { folder, mailbox }: FetchPlace, emailIds: readonly number[]): Promise<void> {
  if (folder.file_as === null) return;
  const rows = await rowsOf(
    tx,
    gestureRow,
    sql`INSERT INTO gestures (email_id, via, target, record_id, detail, user_id, trusted)
    SELECT DISTINCT id, 'folder', ${folder.file_as}, ${folder.file_record_id}::bigint, ${`${folder.path} of ${mailbox.address}`}, ${mailbox.owner_id}::bigint, true FROM unnest(${sql.param([...emailIds])}::bigint[]) AS e(id)
    ON CONFLICT DO NOTHING RETURNING email_id`,
  );
  const ids = rows.map((row) => row.email_id);
  if (ids.length > 0) await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE id = ANY(${sql.param(ids)}::bigint[])`);
}
