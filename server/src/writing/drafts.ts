import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { outgoingContent, Outgoing, Sender, startOutgoing, User } from '@fulvet/contract';
import { MOST_FILE_BYTES } from '@fulvet/contract';
import { beginningOf } from '@fulvet/core';
import type { Beginning } from '@fulvet/core';
import { writeReading } from '../base/audit';
import type { Tx } from '../base/db/database';
import { idRow, rowsOf } from '../base/db/rows';
import { piecesOf, spool } from '../base/files/spool';
import type { Spooled } from '../base/files/spool';
import { isRefusal, notFound, Refusal } from '../base/refusal';
import type { Services } from '../base/services';
import { sourceOf } from '../emails/sourceOf';
import { demandSeen } from '../records/seenRecords';
import { answeredEmail } from './answeredEmail';
import { asParagraphs, cleanHtml, escapedText } from './cleanHtml';
import { isOwnPicture, NOT_A_PICTURE, pictureType } from './pictures';
import { outgoingOf } from './queries';
import { sendersOf, writingRightsOf } from './senders/queries';
import { openNumbers, principalRecord, subjectWith } from './recordNumbers';

type Parts = Pick<Services, 'database'>;

/** Emails of a writer that are not sent. */
const MOST_DRAFTS = 200;
/** Files that a forwarded email takes along. */
const MOST_FORWARDED = 50;
/** Few pieces: each is added to what is stored of the file. */
const PIECE_BYTES = 4 * 1024 * 1024;

export const NO_MAILBOX = new Refusal(
  'conflict',
  'no-mailbox',
  'You have no mailbox to send from. Connect your mailbox first, or ask an administrator to let you use a shared one.',
);

export const MAY_NOT_SEND = new Refusal(
  'forbidden',
  'may-not-send',
  'Your workspace does not let you send emails from here. An administrator says who may, under Workspace.',
);

/** Begins an email, by default from the mailbox that the answered one was written to. */
export async function start(services: Services, user: User, order: z.output<typeof startOutgoing>): Promise<Outgoing | Refusal> {
  const begun = await begin(services, user, order);
  if (isRefusal(begun) || order.kind !== 'forward' || order.emailId === null) return begun;
  return attachForwarded(services, user, begun, order.emailId);
}

function begin({ database }: Parts, user: User, order: z.output<typeof startOutgoing>): Promise<Outgoing | Refusal> {
  return database.as(user.id, async (tx) => {
    const seen = order.record ? await demandSeen(tx, [order.record]) : null;
    if (seen) return seen;
    const senders = await sendersOf(tx, user.id);
    const [many] = await rowsOf(tx, countRow, sql`SELECT count(*)::int AS count FROM outgoing WHERE state = 'draft'`);
    if ((many?.count ?? 0) >= MOST_DRAFTS)
      return new Refusal('conflict', 'too-many', `You have ${MOST_DRAFTS} drafts. Send or discard some of them first.`);
    const answered = order.emailId === null ? null : await answeredEmail(tx, order.emailId);
    if (order.emailId !== null && !answered) return notFound('email');
    if (order.emailId !== null) await writeReading(tx, user, order.emailId, 'quoted an email');
    const own = new Set([user.email.toLowerCase(), ...senders.map(({ address }) => address)]);
    const beginning: Beginning =
      answered && order.kind !== 'new'
        ? beginningOf(order.kind, answered, (address) => own.has(address))
        : { to: order.to, cc: [], subject: '', inReplyTo: null, references: [], quote: null };
    if (answered && order.emailId !== null && order.kind !== 'new')
      beginning.subject = subjectWith(beginning.subject, await openNumbers(tx, order.emailId));
    const record = order.record ?? (order.emailId !== null && order.kind !== 'new' ? await principalRecord(tx, order.emailId) : null);
    const sender = senderFor(senders, answered);
    if (!sender) return (await writingRightsOf(tx, user.id)).maySend ? NO_MAILBOX : MAY_NOT_SEND;
    const [made] = await rowsOf(
      tx,
      idRow,
      sql`
      INSERT INTO outgoing (writer_id, mailbox_id, from_address, kind, "to", cc, subject, quote, filing_how, filing_records, answers_id, in_reply_to, "references", measured)
      VALUES (${user.id}, ${sender.mailboxId}, ${sender.isAlias ? sender.address : null}, ${order.kind}, ${JSON.stringify(beginning.to)}::jsonb, ${JSON.stringify(beginning.cc)}::jsonb, ${beginning.subject}, ${quoted(beginning)},
        ${record ? 'records' : 'rules'}, ${JSON.stringify(record ? [record] : [])}::jsonb, ${order.emailId}, ${beginning.inReplyTo}, ${sql.param(beginning.references)}::text[], (SELECT u.measures_emails FROM users u WHERE u.id = ${user.id})) RETURNING id`,
    );
    return (await outgoingOf(tx, made?.id ?? 0)) ?? notFound('email');
  });
}

/** The address that was written to, else the mailbox in which the answered email lies, else the writer's own. */
const senderFor = (senders: readonly Sender[], answered: Awaited<ReturnType<typeof answeredEmail>>): Sender | undefined =>
  senders.find(({ address }) => [...(answered?.to ?? []), ...(answered?.cc ?? [])].some((recipient) => recipient.address === address)) ??
  senders.find((sender) => !sender.isAlias && answered?.mailboxIds.includes(sender.mailboxId)) ??
  senders[0];

const countRow = z.object({ count: z.number() });

/** What is quoted, below a line that says of which email. */
function quoted({ quote }: Beginning): string {
  if (!quote) return '';
  return `<p>${escapedText(quote.heading)}</p><blockquote>${asParagraphs(quote.text)}</blockquote>`;
}

/** Saves what its writer changed. Where it was changed elsewhere since, nothing is saved. */
export function save({ database }: Parts, user: User, id: number, content: z.output<typeof outgoingContent>): Promise<Outgoing | Refusal> {
  return database.as(user.id, async (tx) => {
    const draft = await demandDraft(tx, id, content.revision);
    if (isRefusal(draft)) return draft;
    const chosen = content.filing.records.filter(
      ({ kind, id: record }) => !draft.filing.records.some((it) => it.kind === kind && it.id === record),
    );
    const unseen = await demandSeen(tx, chosen);
    if (unseen) return unseen;
    const isOther = content.mailboxId !== draft.mailboxId || content.fromAddress !== draft.fromAddress;
    if (isOther && !(await sendersOf(tx, user.id, content)).length) return notYours();
    const people = (list: Outgoing['to']): string =>
      JSON.stringify(list.map(({ name, address }) => ({ name, address: address.toLowerCase() })));
    await tx.execute(sql`
      UPDATE outgoing SET revision = revision + 1, changed_at = clock_timestamp(), mailbox_id = ${content.mailboxId}, from_address = ${content.fromAddress}, with_signature = ${content.withSignature}, "to" = ${people(content.to)}::jsonb, cc = ${people(content.cc)}::jsonb, bcc = ${people(content.bcc)}::jsonb,
        subject = ${content.subject.replace(/[\r\n\t]+/g, ' ')}, html = ${cleanHtml(content.html, (source) => isOwnPicture(id, source))}, with_quote = ${content.withQuote}, remind_days = ${content.remindDays}, measured = ${content.measured}, filing_how = ${content.filing.how}, filing_records = ${JSON.stringify(content.filing.records)}::jsonb, problem = '' WHERE id = ${id}`);
    if (content.measured !== draft.measured)
      await tx.execute(sql`UPDATE users SET measures_emails = ${content.measured} WHERE id = ${user.id}`);
    return (await outgoingOf(tx, id)) ?? notFound('email');
  });
}

export const notYours = (): Refusal =>
  new Refusal('forbidden', 'not-your-mailbox', 'You may not send from this address. Choose another one; your draft is kept.');

/**
 * The email, where it can be changed: a draft, or one that was refused, which is a draft again by that.
 *
 * @param revision as its writer saw it last; null: any
 */
export async function demandDraft(tx: Tx, id: number, revision: number | null): Promise<Outgoing | Refusal> {
  await tx.execute(sql`SELECT FROM outgoing WHERE id = ${id} FOR UPDATE`);
  const found = await outgoingOf(tx, id);
  if (!found) return notFound('email');
  if (found.state === 'refused')
    await tx.execute(sql`UPDATE outgoing SET state = 'draft', message_id = NULL, source = NULL, wire = NULL WHERE id = ${id}`);
  else if (found.state !== 'draft')
    return new Refusal(
      'conflict',
      'not-a-draft',
      'This email is no draft any more: it is due or was sent. Take it back first to change it.',
    );
  if (revision !== null && found.revision !== revision)
    return new Refusal(
      'conflict',
      'changed-meanwhile',
      'This draft was changed in another window. Nothing was saved here: copy your text, then open the draft again.',
    );
  return found;
}

/** Discards a draft, or takes an email that is over and done off the list. */
export function discard({ database }: Parts, user: User, id: number): Promise<Record<string, never> | Refusal> {
  return database.as(user.id, async (tx) => {
    // Links that no one was sent are no more; those of a sent email go on.
    await tx.execute(
      sql`DELETE FROM document_links WHERE outgoing_id = (SELECT o.id FROM outgoing o WHERE o.id = ${id} AND o.state IN ('draft', 'refused'))`,
    );
    await tx.execute(
      sql`UPDATE series_runs r SET look_at = now() FROM series_steps s WHERE s.run_id = r.id AND s.outgoing_id = ${id} AND s.done_at IS NULL`,
    );
    const rows = await rowsOf(
      tx,
      idRow,
      sql`DELETE FROM outgoing WHERE id = ${id} AND state IN ('draft', 'refused', 'bounced', 'sent') AND (state <> 'sent' OR source IS NULL) RETURNING id`,
    );
    if (rows.length > 0) return {};
    return (await outgoingOf(tx, id))
      ? new Refusal(
          'conflict',
          'under-way',
          'This email is being sent, or it is unclear whether it was. Take it back, or say whether it was sent, first.',
        )
      : notFound('email');
  });
}

/** A file as it comes in. */
export interface FileToAttach {
  name: string;
  type: string;
  /** It is a picture in the text. */
  inline?: boolean;
  /** As the request says; the bytes are counted all the same. */
  saidBytes: number;
  bytes: AsyncIterable<Uint8Array>;
}

const TOO_LARGE = new Refusal(
  'tooLarge',
  'too-large',
  `All files of an email may have ${MOST_FILE_BYTES / 1024 / 1024} MB together. This file was not attached.`,
);

/** Attaches a file. It is written to disk first, and stored from there: many that come in at once, or slowly, hold no memory and no connection. */
export async function attach(services: Services, user: User, id: number, file: FileToAttach): Promise<Outgoing | Refusal> {
  const { database } = services;
  const draft = await database.as(user.id, (tx) => demandDraft(tx, id, null));
  if (isRefusal(draft)) return draft;
  const room = roomIn(draft);
  if (file.saidBytes > room) return TOO_LARGE;
  const spooled = await spool(services.uploads, file.bytes, room);
  if (!spooled) return TOO_LARGE;
  try {
    return await database.as(user.id, async (tx) => {
      const still = await demandDraft(tx, id, null);
      if (isRefusal(still)) return still;
      if (spooled.size > roomIn(still)) return TOO_LARGE;
      let { type } = file;
      if (file.inline) {
        const picture = await pictureTypeOf(spooled);
        if (picture === null) return NOT_A_PICTURE;
        type = picture;
      }
      const added = await addFile(tx, id, { ...file, type, content: new Uint8Array() });
      for await (const piece of piecesOf(spooled, PIECE_BYTES))
        await tx.execute(sql`UPDATE outgoing_files SET content = content || ${piece}, size = size + ${piece.length} WHERE id = ${added}`);
      return changed(tx, id);
    });
  } finally {
    await spooled.remove();
  }
}

export const roomIn = ({ files }: Outgoing): number => MOST_FILE_BYTES - files.reduce((sum, { size }) => sum + size, 0);

async function pictureTypeOf(spooled: Spooled): Promise<string | null> {
  for await (const piece of piecesOf(spooled, 16)) return pictureType(piece);
  return null;
}

async function addFile(
  tx: Tx,
  id: number,
  { name, type, content, inline = false }: { name: string; type: string; content: Uint8Array; inline?: boolean },
): Promise<number> {
  const [added] = await rowsOf(
    tx,
    idRow,
    sql`INSERT INTO outgoing_files (outgoing_id, name, type, size, inline, content) VALUES (${id}, ${fileName(name)}, ${type}, ${content.length}, ${inline}, ${Buffer.from(content)}) RETURNING id`,
  );
  return added?.id ?? 0;
}

/** The files of an email that is forwarded go along as far as they fit. What cannot be read, or does not fit, is left out. */
async function attachForwarded(services: Services, user: User, draft: Outgoing, emailId: number): Promise<Outgoing | Refusal> {
  if (!(await services.database.as(user.id, (tx) => hasFiles(tx, emailId)))) return draft;
  const raw = await sourceOf(services, user, emailId, 'forwarded an email');
  if (isRefusal(raw)) return draft;
  const files = await services.blobs.readers.read('files', { raw, most: MOST_FORWARDED, bytes: roomIn(draft) }).catch(() => []);
  return services.database.as(user.id, async (tx) => {
    for (const file of files) await addFile(tx, draft.id, file);
    return changed(tx, draft.id);
  });
}

async function hasFiles(tx: Tx, emailId: number): Promise<boolean> {
  const { rowCount } = await tx.execute(
    sql`SELECT FROM attachments a JOIN email_contents c ON c.email_id = a.email_id WHERE a.email_id = ${emailId} AND NOT a.inline LIMIT 1`,
  );
  return (rowCount ?? 0) > 0;
}

/** A name without what leads out of a folder or breaks a header. */
export const fileName = (name: string): string => name.replace(/[\u0000-\u001f/\\]+/g, ' ').trim() || 'file';

export function detach({ database }: Parts, user: User, id: number, file: number): Promise<Outgoing | Refusal> {
  return database.as(user.id, async (tx) => {
    const draft = await demandDraft(tx, id, null);
    if (isRefusal(draft)) return draft;
    const { rowCount } = await tx.execute(sql`DELETE FROM outgoing_files WHERE id = ${file} AND outgoing_id = ${id}`);
    return rowCount === 0 ? notFound('file') : changed(tx, id);
  });
}

export async function changed(tx: Tx, id: number): Promise<Outgoing | Refusal> {
  await tx.execute(sql`UPDATE outgoing SET revision = revision + 1, changed_at = clock_timestamp() WHERE id = ${id}`);
  return (await outgoingOf(tx, id)) ?? notFound('email');
}
