import { redactor, tracesOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import { containing } from '../../base/db/like';
import { idRow, json, rowsOf } from '../../base/db/rows';
import type { StoredStep } from '../../base/db/schema';
import type { Tx } from '../../base/db/database';

interface PersonOfEmail {
  name: string;
  address: string;
}

/** What of a text tells of someone, as patterns of SQL, and how it is taken out of it. */
const tracesIn = (addresses: readonly string[], names: readonly string[]) => ({
  likes: sql.param(tracesOf({ addresses, names }).map(containing)),
  redact: redactor({ addresses, names }),
});

const people = json<PersonOfEmail[]>();
const writtenRow = z.object({
  id: z.number(),
  state: z.string(),
  to: people,
  cc: people,
  bcc: people,
  subject: z.string(),
  html: z.string(),
  quote: z.string(),
});

/**
 * What members write to a person or about them: they are no recipients any more, and the text does not name them. What is over and done goes
 * altogether; the email itself is erased like any other. An email that waits for its time waits for its writer by that.
 */
export async function eraseWriting(tx: Tx, addresses: readonly string[], names: readonly string[]): Promise<void> {
  const { likes, redact } = tracesIn(addresses, names);
  const rows = await rowsOf(
    tx,
    writtenRow,
    sql`SELECT id, state, "to", cc, bcc, subject, html, quote FROM outgoing
      WHERE concat_ws(' ', "to"::text, cc::text, bcc::text, subject, html, quote, problem, calendar) ILIKE ANY(${likes}::text[]) FOR UPDATE`,
  );
  const stays = ({ name, address }: PersonOfEmail): boolean => redact(address) === address && redact(name) === name;
  const list = (all: readonly PersonOfEmail[]): string => JSON.stringify(all.filter(stays));
  for (const row of rows) {
    if (['sent', 'bounced', 'refused'].includes(row.state)) {
      await tx.execute(sql`DELETE FROM outgoing WHERE id = ${row.id}`);
      continue;
    }
    await tx.execute(sql`
      UPDATE outgoing SET "to" = ${list(row.to)}::jsonb, cc = ${list(row.cc)}::jsonb, bcc = ${list(row.bcc)}::jsonb, subject = ${redact(row.subject)}, html = ${redact(row.html)}, quote = ${redact(row.quote)}, source = NULL, wire = NULL, calendar = NULL, revision = revision + 1,
        state = CASE WHEN state IN ('due', 'unclear') THEN 'draft' ELSE state END, problem = 'Someone named in it was erased. Look at it again before you send it.' WHERE id = ${row.id}`);
  }
}

/** What they booked is forgotten; what others wrote of them when they booked does not name them. */
export async function eraseBookings(tx: Tx, addresses: readonly string[], names: readonly string[]): Promise<void> {
  const { likes, redact } = tracesIn(addresses, names);
  await tx.execute(sql`DELETE FROM bookings WHERE guest_address = ANY(${sql.param([...addresses])}::text[])`);
  const rows = await rowsOf(
    tx,
    bookingRow,
    sql`SELECT id, guest_name, note FROM bookings WHERE concat_ws(' ', guest_name, note) ILIKE ANY(${likes}::text[]) FOR UPDATE`,
  );
  for (const { id, guest_name: name, note } of rows)
    await tx.execute(sql`UPDATE bookings SET guest_name = ${redact(name)}, note = ${redact(note)} WHERE id = ${id}`);
}

const bookingRow = z.object({ id: z.number(), guest_name: z.string(), note: z.string() });

/** Series with them stop, and say no more with whom they were; series that name them do not. */
export async function eraseSeries(tx: Tx, addresses: readonly string[], names: readonly string[]): Promise<void> {
  const { likes, redact } = tracesIn(addresses, names);
  const runs = await rowsOf(
    tx,
    idRow,
    sql`UPDATE series_runs SET address = '', name = '', problem = '', state = CASE WHEN state = 'ended' THEN 'ended' ELSE 'stopped' END, why = CASE WHEN state = 'ended' THEN why ELSE 'erased' END, ended_at = coalesce(ended_at, now())
      WHERE concat_ws(' ', address, name, problem) ILIKE ANY(${likes}::text[]) RETURNING id`,
  );
  await tx.execute(
    sql`UPDATE series_steps SET subject = '', message_id = NULL WHERE run_id = ANY(${sql.param(runs.map(({ id }) => id))}::bigint[])`,
  );
  const gone = sql.param(addresses);
  await tx.execute(sql`DELETE FROM unsubscribes WHERE address = ANY(${gone}::text[])`);
  await tx.execute(sql`DELETE FROM unsubscribe_links WHERE address = ANY(${gone}::text[])`);
  await tx.execute(sql`DELETE FROM measured_links l USING measures m WHERE m.id = l.measure_id AND m.address = ANY(${gone}::text[])`);
  await tx.execute(sql`DELETE FROM measures WHERE address = ANY(${gone}::text[])`);
  await tx.execute(
    sql`UPDATE workspace SET measuring = jsonb_set(measuring, '{never}', coalesce((SELECT jsonb_agg(n.address) FROM jsonb_array_elements_text(measuring -> 'never') n(address) WHERE n.address <> ALL(${gone}::text[])), '[]'::jsonb))`,
  );
  // As they are kept, and as they were begun.
  for (const [table, column] of [
    ['series', 'name'],
    ['series_runs', 'series_name'],
  ] as const) {
    const [into, name] = [sql.identifier(table), sql.identifier(column)];
    const named = await rowsOf(
      tx,
      seriesRow,
      sql`SELECT id, ${name} AS name, steps FROM ${into} WHERE concat_ws(' ', ${name}, steps::text) ILIKE ANY(${likes}::text[]) FOR UPDATE`,
    );
    for (const row of named) {
      const steps = JSON.stringify(row.steps.map((step) => ({ ...step, text: redact(step.text) })));
      await tx.execute(sql`UPDATE ${into} SET ${name} = ${redact(row.name)}, steps = ${steps}::jsonb WHERE id = ${row.id}`);
    }
  }
}

const seriesRow = z.object({ id: z.number(), name: z.string(), steps: json<StoredStep[]>() });

const textRow = z.object({ id: z.number(), name: z.string(), subject: z.string(), html: z.string(), words: z.string() });

/** Texts that members keep do not name them, and links that were sent to them lead nowhere. */
export async function eraseKeptTexts(tx: Tx, addresses: readonly string[], names: readonly string[]): Promise<void> {
  const { likes, redact } = tracesIn(addresses, names);
  const texts = await rowsOf(
    tx,
    textRow,
    sql`SELECT id, name, subject, html, words FROM templates WHERE concat_ws(' ', name, subject, html, words) ILIKE ANY(${likes}::text[]) FOR UPDATE`,
  );
  for (const { id, name, subject, html, words } of texts)
    await tx.execute(
      sql`UPDATE templates SET name = ${redact(name)}, subject = ${redact(subject)}, html = ${redact(html)}, words = ${redact(words)}, revision = revision + 1 WHERE id = ${id}`,
    );
  const titles = await rowsOf(
    tx,
    titleRow,
    sql`SELECT id, title, topic FROM documents WHERE concat_ws(' ', title, topic) ILIKE ANY(${likes}::text[]) FOR UPDATE`,
  );
  for (const { id, title, topic } of titles)
    await tx.execute(
      sql`UPDATE documents SET title = ${redact(title)}, topic = ${redact(topic)}, revision = revision + 1 WHERE id = ${id}`,
    );
  await tx.execute(sql`DELETE FROM document_links WHERE recipients::text ILIKE ANY(${likes}::text[])`);
}

const titleRow = z.object({ id: z.number(), title: z.string(), topic: z.string() });

const activityTextRow = z.object({ id: z.number(), text: z.string() });

/** What was logged of contact with them alone goes; what is about others, too, does not name them. */
export async function eraseActivities(
  tx: Tx,
  records: readonly { kind: string; id: number }[],
  addresses: readonly string[],
  names: readonly string[],
): Promise<void> {
  const { likes, redact } = tracesIn(addresses, names);
  const gone = JSON.stringify(records);
  await tx.execute(
    sql`DELETE FROM activity_records a USING jsonb_to_recordset(${gone}::jsonb) g(kind text, id bigint) WHERE a.kind = g.kind AND a.record_id = g.id`,
  );
  await tx.execute(sql`DELETE FROM activities a WHERE NOT EXISTS (SELECT FROM activity_records r WHERE r.activity_id = a.id)`);
  const texts = await rowsOf(tx, activityTextRow, sql`SELECT id, text FROM activities WHERE text ILIKE ANY(${likes}::text[]) FOR UPDATE`);
  for (const { id, text } of texts)
    await tx.execute(sql`UPDATE activities SET text = ${redact(text)}, revision = revision + 1 WHERE id = ${id}`);
  await tx.execute(sql`DELETE FROM activity_changes WHERE before::text ILIKE ANY(${likes}::text[])`);
}

const taskTextRow = z.object({ id: z.number(), text: z.string(), details: z.string() });

/** Tasks about them alone go; others do not name them. */
export async function eraseTasks(
  tx: Tx,
  records: readonly { kind: string; id: number }[],
  addresses: readonly string[],
  names: readonly string[],
): Promise<void> {
  const { likes, redact } = tracesIn(addresses, names);
  const gone = await rowsOf(
    tx,
    idRow,
    sql`DELETE FROM task_records t USING jsonb_to_recordset(${JSON.stringify(records)}::jsonb) g(kind text, id bigint) WHERE t.kind = g.kind AND t.record_id = g.id RETURNING t.task_id AS id`,
  );
  await tx.execute(
    sql`DELETE FROM tasks t WHERE t.id = ANY(${sql.param(gone.map(({ id }) => id))}::bigint[]) AND NOT EXISTS (SELECT FROM task_records r WHERE r.task_id = t.id)`,
  );
  const texts = await rowsOf(
    tx,
    taskTextRow,
    sql`SELECT id, text, details FROM tasks WHERE concat_ws(' ', text, details) ILIKE ANY(${likes}::text[]) FOR UPDATE`,
  );
  for (const { id, text, details } of texts)
    await tx.execute(sql`UPDATE tasks SET text = ${redact(text)}, details = ${redact(details)}, revision = revision + 1 WHERE id = ${id}`);
}
