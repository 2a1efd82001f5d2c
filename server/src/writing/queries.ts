import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Outgoing, OutgoingRow, recordKind } from '@fulvet/contract';
import { filingChoice, sendingState, writingKind } from '@fulvet/contract';
import type { Tx } from '../base/db/database';
import { namesOf } from '../base/db/recordNames';
import { json, moment, rowsOf } from '../base/db/rows';
import { measuresOf } from '../emails/measures';

type People = Outgoing['to'];

const listedRow = z.object({
  id: z.number(),
  state: sendingState,
  kind: writingKind,
  from: z.string(),
  to: json<People>(),
  subject: z.string(),
  due_at: moment.nullable(),
  sent_at: moment.nullable(),
  changed_at: moment,
  problem: z.string(),
  email_id: z.number().nullable(),
});

const LISTED = sql`o.id, o.state, o.kind, coalesce(o.from_address, m.address) AS from, o."to", o.subject, o.due_at, o.sent_at, o.changed_at, o.problem, o.email_id`;

const asListed = ({ due_at, sent_at, changed_at, email_id, ...row }: z.infer<typeof listedRow>): Omit<OutgoingRow, 'measure'> => ({
  ...row,
  dueAt: due_at,
  sentAt: sent_at,
  changedAt: changed_at,
  emailId: email_id,
});

/** What the acting user writes or has sent, what needs them first. */
export async function listOutgoing(tx: Tx, { state, limit }: { state?: string | undefined; limit: number }): Promise<OutgoingRow[]> {
  const rows = await rowsOf(
    tx,
    listedRow,
    sql`
    SELECT ${LISTED} FROM outgoing o JOIN mailboxes m ON m.id = o.mailbox_id WHERE ${state === undefined ? sql`true` : sql`o.state = ${state}`}
    ORDER BY array_position(ARRAY['unclear', 'bounced', 'refused', 'handing over', 'due', 'draft', 'sent'], o.state), o.changed_at DESC, o.id DESC LIMIT ${limit}`,
  );
  const measures = await measuresOf(
    tx,
    'outgoing',
    rows.map(({ id }) => id),
  );
  return rows.map((row) => ({ ...asListed(row), measure: measures.get(row.id) ?? null }));
}

const outgoingRow = listedRow.extend({
  revision: z.number(),
  mailbox_id: z.number(),
  from_address: z.string().nullable(),
  with_signature: z.boolean(),
  cc: json<People>(),
  bcc: json<People>(),
  html: z.string(),
  quote: z.string(),
  with_quote: z.boolean(),
  remind_days: z.number().nullable(),
  measured: z.boolean(),
  filing_how: filingChoice,
  filing_records: json<{ kind: z.infer<typeof recordKind>; id: number }[]>(),
  answers: json<NonNullable<Outgoing['answers']>>().nullable(),
  files: json<Outgoing['files']>(),
});

/** An email that the acting user writes; null: there is none, or it is someone else's. */
export async function outgoingOf(tx: Tx, id: number): Promise<Outgoing | null> {
  const [row] = await rowsOf(
    tx,
    outgoingRow,
    sql`
    SELECT ${LISTED}, o.revision, o.mailbox_id, o.from_address, o.with_signature, o.cc, o.bcc, o.html, o.quote, o.with_quote, o.remind_days, o.measured, o.filing_how, o.filing_records,
      (SELECT json_build_object('emailId', e.id, 'subject', coalesce(c.subject, '')) FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id WHERE e.id = o.answers_id) AS answers,
      coalesce((SELECT json_agg(json_build_object('id', f.id, 'name', f.name, 'type', f.type, 'size', f.size, 'inline', f.inline) ORDER BY f.id) FROM outgoing_files f WHERE f.outgoing_id = o.id), '[]'::json) AS files
    FROM outgoing o JOIN mailboxes m ON m.id = o.mailbox_id WHERE o.id = ${id}`,
  );
  if (!row) return null;
  const {
    revision,
    mailbox_id,
    from_address,
    with_signature,
    cc,
    bcc,
    html,
    quote,
    with_quote,
    remind_days,
    measured,
    filing_how,
    filing_records,
    answers,
    files,
    ...listed
  } = row;
  const names = await namesOf(
    tx,
    filing_records.map((record) => `${record.kind}:${record.id}`),
  );
  return {
    ...asListed(listed),
    revision,
    mailboxId: mailbox_id,
    fromAddress: from_address,
    withSignature: with_signature,
    cc,
    bcc,
    html,
    quote,
    withQuote: with_quote,
    // Records that are gone, or out of the writer's reach by now, are left out.
    filing: {
      how: filing_how,
      records: filing_records.flatMap((record) => {
        const name = names.get(`${record.kind}:${record.id}`);
        return name === undefined ? [] : [{ ...record, name }];
      }),
    },
    answers,
    files,
    remindDays: remind_days,
    measured,
    measure: (await measuresOf(tx, 'outgoing', [id])).get(id) ?? null,
  };
}
