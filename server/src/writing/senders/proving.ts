import { createHash, randomInt, timingSafeEqual } from 'node:crypto';
import { sql } from 'drizzle-orm';
import type { Sender, User } from '@fulvet/contract';
import { writeDown } from '../../base/audit';
import type { Tx } from '../../base/db/database';
import { MailFailure } from '../../base/network/mailFailure';
import { isRefusal, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { targetOf } from '../../mailboxes/connect/mailboxSecret';
import { loadMailbox } from '../../mailboxes/mailbox';
import { cleanHtml } from '../cleanHtml';
import { composeMail, newMessageId } from '../composeMail';
import { notYours } from '../drafts';
import { handOver } from '../handOver';
import { allSendersOf, provingOf } from './queries';

/** So long a code counts. */
const CODE_SECONDS = 1800;
/** Another code is sent after this at the earliest. */
const NEXT_CODE_SECONDS = 60;
const MOST_TRIES = 5;

interface Place {
  mailboxId: number;
  address: string;
}

const hashOf = ({ mailboxId, address }: Place, userId: number, code: string): string =>
  createHash('sha256').update(`${userId} ${mailboxId} ${address} ${code}`).digest('hex');

async function demandSender(tx: Tx, user: User, { mailboxId, address }: Place): Promise<Sender | Refusal> {
  const found = (await allSendersOf(tx, user.id)).find((sender) => sender.mailboxId === mailboxId && sender.address === address);
  return found ?? notYours();
}

/** Sets name and signature of an address. */
export function saveSender({ database }: Pick<Services, 'database'>, user: User, order: Place & { name: string; signature: string }) {
  return database.as(user.id, async (tx) => {
    const found = await demandSender(tx, user, order);
    if (isRefusal(found)) return found;
    const name = order.name.replace(/[\r\n]+/g, ' ');
    const signature = cleanHtml(order.signature);
    await tx.execute(sql`INSERT INTO senders (user_id, mailbox_id, address, name, signature) VALUES (${user.id}, ${order.mailboxId}, ${order.address}, ${name}, ${signature})
      ON CONFLICT (user_id, mailbox_id, address) DO UPDATE SET name = excluded.name, signature = excluded.signature`);
    return { senders: await allSendersOf(tx, user.id) };
  });
}

/** Sends a code from the mailbox to an alias of it. Whoever reads it there may send as the alias. */
export async function sendCode(services: Services, user: User, place: Place): Promise<{ senders: Sender[] } | Refusal> {
  const { database } = services;
  const code = String(randomInt(0, 1_000_000)).padStart(6, '0');
  const noted = await database.as(user.id, async (tx) => {
    const found = await demandSender(tx, user, place);
    if (isRefusal(found)) return found;
    const before = await provingOf(tx, place.mailboxId, place.address);
    if (before?.sent_seconds != null && before.sent_seconds < NEXT_CODE_SECONDS)
      return new Refusal('busy', 'too-many-attempts', 'A code was sent a moment ago. Look for it, or ask for another one in a minute.');
    await tx.execute(sql`INSERT INTO senders (user_id, mailbox_id, address, code_hash, code_sent_at) VALUES (${user.id}, ${place.mailboxId}, ${place.address}, ${hashOf(place, user.id, code)}, now())
      ON CONFLICT (user_id, mailbox_id, address) DO UPDATE SET code_hash = excluded.code_hash, code_sent_at = now(), code_tries = 0`);
    return found;
  });
  if (isRefusal(noted)) return noted;
  const failed = await sendTo(services, user, place, code);
  if (failed === null) return database.as(user.id, async (tx) => ({ senders: await allSendersOf(tx, user.id) }));
  await database.as(user.id, (tx) =>
    tx.execute(
      sql`UPDATE senders SET code_hash = NULL, code_sent_at = NULL WHERE mailbox_id = ${place.mailboxId} AND address = ${place.address}`,
    ),
  );
  return new Refusal('elsewhere', 'not-sent', `The code was not sent. The mail server said: ${failed}`);
}

/** @returns what the mail server said where it did not take it */
async function sendTo(services: Services, user: User, { mailboxId, address }: Place, code: string): Promise<string | null> {
  const mailbox = await loadMailbox(services.database.worker, mailboxId);
  if (!mailbox) return 'the mailbox is gone';
  const source = await composeMail({
    from: { name: user.name, address: mailbox.address },
    to: [{ name: '', address }],
    cc: [],
    bcc: [],
    subject: 'Code for sending from this address',
    html: `<p>The code is ${code}. Enter it in Fulvet within half an hour to send emails from ${address}.</p><p>If no one in your company asked for this, ignore this email.</p>`,
    messageId: newMessageId(mailbox.address),
    inReplyTo: null,
    references: [],
    at: new Date(),
    files: [],
  });
  try {
    const target = await targetOf(services, mailbox);
    const done = await handOver(services.network, target, { from: mailbox.address, to: [address], source }, async () => undefined);
    return done.how === 'taken' ? (done.refusedFor[0]?.said ?? null) : done.said;
  } catch (error) {
    if (error instanceof MailFailure) return error.message;
    throw error;
  }
}

const DOES_NOT_COUNT = new Refusal('conflict', 'wrong-code', 'This code does not count any more. Ask for a new one.');
const WRONG = new Refusal('unfit', 'wrong-code', 'The code is wrong. Look at the newest email with a code.', { code: 'is wrong' });

export async function confirm({ database }: Pick<Services, 'database'>, user: User, { code, ...place }: Place & { code: string }) {
  // A refusal undoes what its transaction did; a wrong try counts all the same.
  const checked = await database.as(user.id, async (tx): Promise<Refusal | 'wrong' | { senders: Sender[] }> => {
    const found = await demandSender(tx, user, place);
    if (isRefusal(found)) return found;
    const proving = await provingOf(tx, place.mailboxId, place.address);
    if (!proving?.code_hash || (proving.sent_seconds ?? Infinity) > CODE_SECONDS || proving.code_tries >= MOST_TRIES) return DOES_NOT_COUNT;
    if (!timingSafeEqual(Buffer.from(proving.code_hash), Buffer.from(hashOf(place, user.id, code)))) {
      await tx.execute(
        sql`UPDATE senders SET code_tries = code_tries + 1 WHERE mailbox_id = ${place.mailboxId} AND address = ${place.address}`,
      );
      return 'wrong';
    }
    await tx.execute(
      sql`UPDATE senders SET proven_at = now(), code_hash = NULL WHERE mailbox_id = ${place.mailboxId} AND address = ${place.address}`,
    );
    await writeDown(tx, user, {
      kind: 'mailbox',
      about: `may send emails as ${place.address}, by a code that was sent there`,
      subjectId: user.id,
    });
    return { senders: await allSendersOf(tx, user.id) };
  });
  return checked === 'wrong' ? WRONG : checked;
}
