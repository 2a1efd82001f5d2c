import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { filingChoice } from '@fulvet/contract';
import { identityOf } from '@fulvet/core';
import type { RecordKind, recordKind } from '@fulvet/contract';
import type { Db } from '../base/db/database';
import { json, rowsOf } from '../base/db/rows';
import type { Services } from '../base/services';
import { liveRulebook } from '../rulebook/liveRulebook';
import { composeMail } from './composeMail';
import type { MailToCompose } from './composeMail';
import { measured, noticeBelow } from './measuring/measuredEmail';
import { whyNotMeasured } from './measuring/whyNotMeasured';
import type { MayMeasure } from './measuring/whyNotMeasured';
import { withPictures } from './pictures';
import { filledSignature } from './senders/signature';

const people = json<{ name: string; address: string }[]>();

const dueRow = z.object({
  id: z.number(),
  writer_id: z.number(),
  mailbox_id: z.number(),
  address: z.string(),
  /** Name and signature of the address that it is sent from. */
  writer: z.string(),
  signature: z.string(),
  state: z.enum(['handing over', 'sent']),
  to: people,
  cc: people,
  bcc: people,
  subject: z.string(),
  html: z.string(),
  quote: z.string(),
  filing_how: filingChoice,
  filing_records: json<{ kind: z.infer<typeof recordKind>; id: number }[]>(),
  in_reply_to: z.string().nullable(),
  refs: z.array(z.string()),
  message_id: z.string(),
  tries: z.number(),
  content_begun: z.boolean(),
  response: z.string().nullable(),
  copied: z.boolean(),
  email_id: z.number().nullable(),
  /** Minutes since it was due. */
  late: z.number(),
  /** Its writer chose a time for it. */
  timed: z.boolean(),
  answered_by: z.string().nullable(),
  unsubscribe: z.string().nullable(),
  calendar: z.string().nullable(),
  measured: z.boolean(),
  /** The series of which it is a step. */
  run_id: z.number().nullable(),
});

/** An email that a process has taken up, to hand it over or to put its copies in place. */
export type DueEmail = z.infer<typeof dueRow>;

/** So long a process that does not say that it lives may hold an email. */
export const LEASE_SECONDS = 90;
/** Longer than it can be taken back by this, someone chose a time. */
const TIMED_SECONDS = 60;

/** Emails of series stay where they are while everything that is sent by itself is held. */
const NOT_HELD = sql`NOT ((SELECT (w.automatic ->> 'isHeld')::boolean FROM workspace w) AND EXISTS (SELECT FROM series_steps s WHERE s.outgoing_id = o.id AND s.done_at IS NULL))`;

/** Takes up the next email that is due, whose process died, or whose copies are not in place; null: there is none. */
export async function takeDue(db: Db, holder: string): Promise<DueEmail | null> {
  const [row] = await rowsOf(
    db,
    dueRow,
    sql`
    WITH next AS (SELECT o.id FROM outgoing o WHERE (o.state = 'due' AND o.due_at <= now() AND ${NOT_HELD})
        OR (o.state = 'handing over' AND o.lease_until < now()) OR (o.state = 'sent' AND o.source IS NOT NULL AND coalesce(o.lease_until < now(), true))
      ORDER BY o.due_at LIMIT 1 FOR UPDATE SKIP LOCKED),
    taken AS (UPDATE outgoing o SET state = CASE WHEN o.state = 'sent' THEN 'sent' ELSE 'handing over' END, tries = o.tries + (o.state = 'due')::int, holder = ${holder}, lease_until = now() + make_interval(secs => ${LEASE_SECONDS})
      FROM next WHERE o.id = next.id RETURNING o.*)
    SELECT t.id, t.writer_id, t.mailbox_id, coalesce(t.from_address, m.address) AS address, coalesce(nullif(s.name, ''), u.name) AS writer, CASE WHEN t.with_signature THEN coalesce(s.signature, '') ELSE '' END AS signature, t.state, t."to", t.cc, t.bcc, t.subject, t.html, CASE WHEN t.with_quote THEN t.quote ELSE '' END AS quote, t.unsubscribe, t.calendar, t.measured, t.filing_how, t.filing_records, t.in_reply_to, t."references" AS refs, t.message_id, t.tries, t.content_begun, t.response, t.copied, t.email_id,
      (extract(epoch FROM now() - t.due_at) / 60)::float8 AS late, t.due_at - t.changed_at > make_interval(secs => ${TIMED_SECONDS}) AS timed,
      (SELECT coalesce(nullif(p.name, ''), p.address) FROM emails a JOIN emails e ON e.conversation_id = a.conversation_id JOIN participants p ON p.email_id = e.id AND p.role = 'from'
        WHERE a.id = t.answers_id AND e.sent_at > t.changed_at AND e.direction = 'received' AND e.mail_class = 'person' LIMIT 1) AS answered_by,
      (SELECT s.run_id FROM series_steps s WHERE s.outgoing_id = t.id AND s.done_at IS NULL LIMIT 1) AS run_id
    FROM taken t JOIN mailboxes m ON m.id = t.mailbox_id JOIN users u ON u.id = t.writer_id
      LEFT JOIN senders s ON s.user_id = t.writer_id AND s.mailbox_id = t.mailbox_id AND s.address = coalesce(t.from_address, m.address)`,
  );
  return row ?? null;
}

const secondsRow = z.object({ seconds: z.number().nullable() });

/** Seconds until the next email is due or can be taken over; null: none is in sight. */
export async function secondsToNext(db: Db): Promise<number | null> {
  const [row] = await rowsOf(
    db,
    secondsRow,
    sql`SELECT extract(epoch FROM min(CASE WHEN o.state = 'due' THEN o.due_at ELSE coalesce(o.lease_until, now()) END) - now())::float8 AS seconds
      FROM outgoing o WHERE (o.state IN ('due', 'handing over') OR (o.state = 'sent' AND o.source IS NOT NULL)) AND (o.state <> 'due' OR ${NOT_HELD})`,
  );
  return row?.seconds ?? null;
}

const fileRow = z.object({ id: z.number(), name: z.string(), type: z.string(), inline: z.boolean(), content: z.instanceof(Buffer) });
const sourceRow = z.object({ source: z.instanceof(Buffer).nullable(), wire: z.instanceof(Buffer).nullable() });

/** An email as a message. */
export interface Message {
  /** As its writer keeps it, and as it is filed. */
  source: Buffer;
  /** As the mail server gets it; the same, where its openings are not counted. */
  wire: Buffer;
}

/**
 * The message as it is handed over: made once, and the same ever after.
 *
 * @throws where another process has taken the email over: what this one knows of it may be old
 */
export async function messageOf(services: Pick<Services, 'database' | 'blobs'>, email: DueEmail, holder: string): Promise<Message> {
  const db = services.database.worker;
  const [made] = await rowsOf(db, sourceRow, sql`SELECT source, wire FROM outgoing WHERE id = ${email.id}`);
  if (made?.source) return { source: made.source, wire: made.wire ?? made.source };
  const stored = await rowsOf(
    db,
    fileRow,
    sql`SELECT id, name, type, inline, content FROM outgoing_files WHERE outgoing_id = ${email.id} ORDER BY id`,
  );
  const { html, files } = withPictures(email.id, email.html, stored, email.message_id);
  const may = email.measured ? await mayMeasure(services, email) : null;
  const below = `${signed(email)}${email.quote}${may ? noticeBelow(may) : ''}`;
  const mail: MailToCompose = {
    from: { name: email.writer, address: email.address },
    to: email.to,
    cc: email.cc,
    bcc: email.bcc,
    subject: email.subject,
    html: `${html}${below}`,
    messageId: email.message_id,
    inReplyTo: email.in_reply_to,
    references: email.refs,
    at: new Date(),
    files,
    unsubscribe: email.unsubscribe,
    calendar: email.calendar,
  };
  const source = await composeMail(mail);
  const text = may && (await measured(db, { ...email, html }, may));
  const wire = text && (await composeMail({ ...mail, text: mail.html, html: `${text.html}${below}${text.picture}` }));
  if (wire) await noteForm(services, email, { source, wire });
  const { rowCount } = await db.execute(
    sql`UPDATE outgoing SET source = ${source}, wire = ${wire} WHERE id = ${email.id} AND holder = ${holder} AND state = 'handing over'`,
  );
  if (rowCount === 0) throw new Error('another process has taken this email over');
  return { source, wire: wire ?? source };
}

/** Before it is handed over: a copy of it that the provider keeps is known for the same email then. */
async function noteForm(
  { database, blobs }: Pick<Services, 'database' | 'blobs'>,
  email: DueEmail,
  { source, wire }: Message,
): Promise<void> {
  const [kept, sent] = await blobs.read([source, wire].map((raw) => ({ raw, options: { arrivedAt: Date.now() } })));
  if (!kept || !sent) throw new Error('an email that is to be sent could not be read');
  await database.worker.execute(
    sql`INSERT INTO sent_forms (identity, message_id, kept_as) VALUES (${identityOf(sent)}, ${email.message_id}, ${identityOf(kept)}) ON CONFLICT (identity) DO NOTHING`,
  );
}

/** Asked when the message is made, by what holds then. */
async function mayMeasure({ database }: Pick<Services, 'database'>, email: DueEmail): Promise<MayMeasure | null> {
  const { compiled } = await liveRulebook(database);
  const { writer_id: writerId, mailbox_id: mailboxId } = email;
  const recipients = [...email.to, ...email.cc, ...email.bcc];
  const may = await whyNotMeasured(database.worker, { writerId, mailboxId, recipients }, compiled.isOurs);
  return typeof may === 'string' ? null : may;
}

/** Its signature with the fields of its sender filled. */
const signed = ({ signature, writer, address }: DueEmail): string =>
  signature === '' ? '' : `<p>-- </p>${filledSignature(signature, { name: writer, address })}`;

/** Its records as the writer chose them. */
export const chosenRecords = (email: DueEmail): { kind: RecordKind; id: number }[] =>
  email.filing_how === 'records' ? email.filing_records : [];
