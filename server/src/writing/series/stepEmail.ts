import { sql } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import { z } from 'zod';
import { user as userShape } from '@fulvet/contract';
import type { Outgoing, RecordKind, User } from '@fulvet/contract';
import { domainOf } from '@fulvet/core';
import type { Tx } from '../../base/db/database';
import { idRow, rowsOf } from '../../base/db/rows';
import { isRefusal, Refusal } from '../../base/refusal';
import type { Services } from '../../base/services';
import { makeUnsubscribeLink, unsubscribeLine } from '../bulk/unsubscribeLink';
import { addDocumentsTo } from '../documents/links';
import { preview } from '../preview';
import { outgoingOf } from '../queries';
import { send } from '../sending';
import { personAt } from '../templates/fieldValues';
import { fill } from '../templates/fill';
import type { DueRun } from './dueRun';
import { stopRun } from './stopRun';

const beforeRow = z.object({ message_id: z.string(), subject: z.string() });

/** Begins the email of a step: once, however many processes try. */
export function beginEmail({ database }: Services, run: DueRun, now: number): Promise<void> {
  return database.work(async (tx) => {
    const made = await rowsOf(
      tx,
      z.object({ run_id: z.number() }),
      sql`INSERT INTO series_steps (run_id, step, begun_at) SELECT r.id, r.at_step, ${new Date(now)} FROM series_runs r WHERE r.id = ${run.id} AND r.at_step = ${run.at_step} AND r.state = 'waiting'
        ON CONFLICT (run_id, step) DO NOTHING RETURNING run_id`,
    );
    if (made.length === 0) return;
    const before = await rowsOf(
      tx,
      beforeRow,
      sql`SELECT message_id, subject FROM series_steps WHERE run_id = ${run.id} AND message_id IS NOT NULL ORDER BY step`,
    );
    const to = JSON.stringify([{ name: run.name, address: run.address }]);
    const records = await recordsFor(tx, run);
    const [email] = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO outgoing (writer_id, mailbox_id, from_address, kind, "to", subject, filing_how, filing_records, in_reply_to, "references")
        VALUES (${run.writer_id}, ${run.mailbox_id}, ${run.from_address}, 'new', ${to}::jsonb, ${answerTo(before[0]?.subject)}, ${records.length === 0 ? 'rules' : 'records'}, ${JSON.stringify(records)}::jsonb,
          ${before.at(-1)?.message_id ?? null}, ${sql.param(before.map(({ message_id }) => message_id))}::text[]) RETURNING id`,
    );
    await tx.execute(sql`UPDATE series_steps SET outgoing_id = ${email?.id ?? 0} WHERE run_id = ${run.id} AND step = ${run.at_step}`);
    await tx.execute(sql`UPDATE series_runs SET state = 'preparing', problem = '' WHERE id = ${run.id}`);
  });
}

/** Under what the email is filed beside what the rules say: its deal; an email to many, the person. */
async function recordsFor(tx: Tx, run: DueRun): Promise<{ kind: RecordKind; id: number }[]> {
  if (run.deal_id !== null) return [{ kind: 'deal', id: run.deal_id }];
  const person = run.bulk_id === null ? null : await personAt(tx, run.address);
  return person ? [person] : [];
}

/** The same however often the step is begun, as after a backup was put in place: the sent folder shows by it that it was sent. */
const messageIdOf = ({ id, at_step: step, started_at: startedAt }: DueRun, from: string): string =>
  `${createHash('sha256').update(`series ${id} ${step} ${startedAt}`).digest('hex').slice(0, 32)}@${domainOf(from)}`;

const answerTo = (subject = ''): string => (subject === '' || /^re:/i.test(subject) ? subject : `Re: ${subject}`);

const stepRow = z.object({ outgoing_id: z.number() });

/**
 * Writes the email of a step by its template, as its member would, and sends it or shows it. Doing it again begins anew.
 *
 * @param asks its member looks at it first
 */
export async function prepareEmail(services: Services, run: DueRun, asks: boolean, onWritten: () => Promise<void> | void): Promise<void> {
  const { database } = services;
  const [step] = await rowsOf(
    database.worker,
    stepRow,
    sql`SELECT s.outgoing_id FROM series_steps s JOIN series_runs r ON r.id = s.run_id AND r.state = 'preparing' JOIN outgoing o ON o.id = s.outgoing_id AND o.state = 'draft' WHERE s.run_id = ${run.id} AND s.step = ${run.at_step}`,
  );
  const [writer] = await rowsOf(database.worker, userShape, sql`SELECT id, email, name, role FROM users WHERE id = ${run.writer_id}`);
  // Another process was here before.
  if (!step || !writer) return;
  const written = await write(services, writer, run, step.outgoing_id);
  if (isRefusal(written)) return database.work((tx) => stopRun(tx, run.id, 'no text', { problem: written.message }));
  await onWritten();
  const said = await preview(services, writer, written.id);
  if (isRefusal(said)) return database.work((tx) => stopRun(tx, run.id, 'no text', { problem: said.message }));
  const against = said.warnings.find(({ code }) => code === 'erased') ?? said.warnings.find(({ code }) => code === 'kept out');
  if (against)
    return database.work((tx) => stopRun(tx, run.id, against.code === 'erased' ? 'erased' : 'kept out', { problem: against.text }));
  const sent = asks
    ? null
    : await send(services, writer, written.id, { revision: written.revision, at: null, agree: false }, messageIdOf(run, written.from));
  // What cannot be sent by itself is shown, with why.
  const state = sent === null || isRefusal(sent) ? 'to look at' : 'sending';
  const problem = isRefusal(sent) ? sent.message : '';
  await database.worker.execute(
    sql`UPDATE series_runs SET state = ${state}, problem = ${problem}, look_at = now() + interval '1 minute' WHERE id = ${run.id} AND state = 'preparing'`,
  );
}

async function write(services: Services, writer: User, run: DueRun, outgoingId: number): Promise<Outgoing | Refusal> {
  const { database } = services;
  const templateId = run.steps[run.at_step]?.templateId ?? 0;
  const filled = await fill(services, writer, templateId, { outgoingId, record: null });
  if (isRefusal(filled))
    return new Refusal('conflict', 'no-text', `The template of step ${run.at_step + 1} is not there any more, or not published.`);
  const html = run.bulk_id === null ? filled.html : await withUnsubscribe(services, run, templateId, outgoingId, filled.html);
  if (isRefusal(html)) return html;
  const inForce = filled.documents.filter(({ isInForce }) => isInForce).map(({ id }) => id);
  await database.as(writer.id, async (tx) => {
    await tx.execute(sql`DELETE FROM outgoing_files WHERE outgoing_id = ${outgoingId}`);
    await tx.execute(
      sql`UPDATE outgoing SET html = ${html}, subject = coalesce(nullif(${filled.subject}, ''), subject),
        in_reply_to = CASE WHEN ${filled.subject} = '' THEN in_reply_to END, "references" = CASE WHEN ${filled.subject} = '' THEN "references" ELSE '{}' END WHERE id = ${outgoingId} AND state = 'draft'`,
    );
  });
  if (inForce.length > 0) {
    const attached = await addDocumentsTo(services, writer, outgoingId, { documentIds: inForce, how: 'files', days: 30 });
    if (isRefusal(attached)) return attached;
  }
  return database.as(writer.id, async (tx): Promise<Outgoing | Refusal> => {
    // Its writer has not touched it.
    await tx.execute(sql`UPDATE outgoing SET revision = 0 WHERE id = ${outgoingId}`);
    return (await outgoingOf(tx, outgoingId)) ?? new Refusal('conflict', 'no-text', 'The email was discarded.');
  });
}

const placeRow = z.object({ base: z.string().nullable(), language: z.string() });

/** The text with a line to unsubscribe; the same link stands in the header. */
async function withUnsubscribe(
  { database }: Services,
  run: DueRun,
  templateId: number,
  outgoingId: number,
  html: string,
): Promise<string | Refusal> {
  const [place] = await rowsOf(
    database.worker,
    placeRow,
    sql`SELECT w.link_address AS base, coalesce(t.language, '') AS language FROM workspace w LEFT JOIN templates t ON t.id = ${templateId}`,
  );
  if (!place?.base)
    return new Refusal('conflict', 'no-text', 'There is no address for links any more, and it has no link to unsubscribe by that.');
  const url = await makeUnsubscribeLink(database.worker, place.base, run.address);
  await database.worker.execute(sql`UPDATE outgoing SET unsubscribe = ${url} WHERE id = ${outgoingId} AND state = 'draft'`);
  return html + unsubscribeLine(url, place.language);
}
