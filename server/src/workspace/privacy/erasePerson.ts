import {
  erasures,
  threadHashes,
  participants as participantsTable,
  attachments as attachmentsTable,
  meetings,
  emails,
  dockets,
  personAddresses,
  recordChanges,
  filings,
} from '../../base/db/schema';
import { json, rowsOf } from '../../base/db/rows';
import { Refusal } from '../../base/refusal';
import type { Erasure, eraseRequest, User } from '@fulvet/contract';
import { codeWordsOfText, redactor, tracesOf, withoutPeople, withoutTag, domainOf, wordPairsOf } from '@fulvet/core';
import type { Participant } from '@fulvet/core';
import { sql, eq, and } from 'drizzle-orm';
import { createHash } from 'node:crypto';
import { z } from 'zod';
import { writeDown } from '../../base/audit';
import type { Tx } from '../../base/db/database';
import { containing } from '../../base/db/like';
import { eraseActivities, eraseBookings, eraseTasks, eraseKeptTexts, eraseSeries, eraseWriting } from './eraseWriting';
import { takeMailLock } from '../../base/db/mailLock';
import { searchText } from '../../emails/contents';
import type { Services } from '../../base/services';
import { liveRulebook } from '../../rulebook/liveRulebook';
import type { Person } from './findPerson';
import { emailsWith, mentionsOf, namesOf, recordsOf, personAt } from './findPerson';
import { erasureSalt, hashOf } from '../../emails/store/forgotten';
import { forgetPeople, ThreadHasher } from '../../emails/store/threadHashes';
import { PEOPLE_OF, tableOf } from '../../records/kinds';
import { eraseSources } from '../../emails/store/eraseSources';

type Order = z.output<typeof eraseRequest>;
type Counts = Record<string, number>;

const namedEmailRow = z.object({ email_id: z.number(), shared: z.boolean() });

const heldRow = z.object({ email_id: z.number() });

const erasureRow = z.object({ id: z.number(), at: z.string() });

/**
 * Forgets an external person for good, in one transaction: their records go; emails in which no one else from outside takes part go or stay without them; emails with
 * others, and those that name them, stay without them; the sources of all these are overwritten. From then on they are kept out, by hashes of their
 * addresses. Sealed mail is no exception, and no number tells of it.
 */
export async function erasePerson(services: Services, user: User, order: Order): Promise<Erasure | Refusal> {
  const { database, blobs, jobs } = services;
  const { compiled } = await liveRulebook(database);
  const ours = order.addresses.find((address) => compiled.isOurs(address, domainOf(address)));
  if (ours)
    return new Refusal('unfit', 'ours', `${ours} is one of ours. To deactivate a member, use the Team page.`, {
      addresses: 'names one of ours',
    });
  if (order.confirm.trim().toLowerCase() !== order.addresses[0])
    return new Refusal('unfit', 'not-confirmed', 'Write the first address again: what is erased does not come back.', {
      confirm: 'is not the first address',
    });
  const person = personAt(order.addresses, compiled);
  const { addresses } = person;
  // Counted as whoever asks may know of it.
  const known = await database.as(user.id, (tx) => knownCounts(tx, person, order.way));
  const done = await database.work(async (tx) => {
    await takeMailLock(tx);
    const names = await namesOf(tx, person);
    const rows = await rowsOf(tx, namedEmailRow, emailsWith(person));
    const mentions = await rowsOf(tx, heldRow, mentionsOf(person, names));
    const whole = order.way === 'erase' ? rows.filter((row) => !row.shared).map((row) => row.email_id) : [];
    const kept = [...rows.map((row) => row.email_id).filter((id) => !whole.includes(id)), ...mentions.map((row) => row.email_id)];
    const places = await eraseSources(tx, [...whole, ...kept]);
    await emptyWhole(tx, whole);
    await anonymise(tx, kept, person, names);
    await forgetPeople(tx, addresses);
    const about = await recordsOf(tx, addresses);
    await eraseActivities(tx, about, addresses, names);
    await eraseTasks(tx, about, addresses, names);
    const records = await eraseRecords(tx, addresses);
    await eraseTraces(tx, [...whole, ...kept], addresses, names);
    await eraseWriting(tx, addresses, names);
    await eraseKeptTexts(tx, addresses, names);
    await eraseSeries(tx, addresses, names);
    await eraseBookings(tx, addresses, names);
    const salt = await erasureSalt(tx);
    const made = await rowsOf(
      tx,
      erasureRow,
      sql`INSERT INTO erasures (by_user_id, reference, counts, salt, certificate) VALUES (${user.id}, ${order.reference}, ${JSON.stringify({ ...known, records })}::jsonb, ${salt}, '') RETURNING id, at`,
    );
    const id = made[0]?.id ?? 0;
    const at = new Date(made[0]?.at ?? 0).toISOString();
    await tx.execute(
      sql`INSERT INTO forgotten (hash, erasure_id) SELECT h, ${id}::bigint FROM unnest(${sql.param(addresses.map((address) => hashOf(salt, address)))}::text[]) AS h ON CONFLICT DO NOTHING`,
    );
    const counts = { ...known, records };
    const certificate = certificateOf({ id, at, by: user.name, order, counts });
    await tx.update(erasures).set({ certificate }).where(eq(erasures.id, id));
    await writeDown(tx, user, {
      kind: 'erase',
      about: `erased a person for good: certificate ${id}${order.reference ? `, reference ${order.reference}` : ''}`,
    });
    return { places, erasure: { id, at, by: user.name, reference: order.reference, counts, certificate } };
  });
  // After the commit: what is overwritten cannot come back with a transaction that failed.
  await blobs.erase(done.places);
  await jobs.decidePending();
  return done.erasure;
}

const countsRow = z.object({ alone: z.number(), shared: z.number(), mentions: z.number() });

async function knownCounts(tx: Tx, person: Person, way: Order['way']): Promise<Counts> {
  const names = await namesOf(tx, person);
  const rows = await rowsOf(
    tx,
    countsRow,
    sql`
    SELECT count(*) FILTER (WHERE NOT shared)::int AS alone, count(*) FILTER (WHERE shared)::int AS shared, (SELECT count(*)::int FROM (${mentionsOf(person, names)}) m) AS mentions FROM (${emailsWith(person)}) w`,
  );
  const [row] = rows;
  const [alone, shared] = [row?.alone ?? 0, row?.shared ?? 0];
  return {
    emailsErased: way === 'erase' ? alone : 0,
    emailsAnonymised: shared + (way === 'erase' ? 0 : alone),
    mentionsRemoved: row?.mentions ?? 0,
  };
}

/** Whole emails go, with all that hangs on them; where they lay is kept, so that they are not fetched again. */
async function emptyWhole(tx: Tx, ids: readonly number[]): Promise<void> {
  await tx.execute(sql`DELETE FROM emails WHERE id = ANY(${sql.param([...ids])}::bigint[])`);
}

const participantRow = z.object({
  subject: z.string(),
  base_subject: z.string(),
  body: z.string(),
  preview: z.string(),
  people: json<Participant[]>().nullable(),
});

async function anonymise(tx: Tx, ids: readonly number[], person: Person, names: readonly string[]): Promise<void> {
  const { addresses } = person;
  const hasher = await ThreadHasher.load(tx);
  const wanted = new Set(addresses);
  const isForgotten = (address: string): boolean => wanted.has(address) || (!person.tagsTellApart && wanted.has(withoutTag(address)));
  for (const id of ids) {
    const rows = await rowsOf(
      tx,
      participantRow,
      sql`
      SELECT c.subject, c.base_subject, c.body, c.preview, (SELECT json_agg(json_build_object('role', role, 'address', address, 'domain', domain, 'name', name) ORDER BY role, position) FROM participants WHERE email_id = c.email_id) AS people FROM email_contents c WHERE c.email_id = ${id}`,
    );
    const [row] = rows;
    if (!row) continue;
    const before = row.people ?? [];
    const { subject, text, participants } = withoutPeople({ subject: row.subject, text: row.body, participants: before }, isForgotten, {
      addresses,
      names,
    });
    const redact = redactor({
      addresses,
      names: [...names, ...before.filter((participant) => isForgotten(participant.address)).map((participant) => participant.name)],
    });
    const baseSubject = redact(row.base_subject);
    await tx
      .update(threadHashes)
      .set({ subject: hasher.subject(baseSubject) })
      .where(eq(threadHashes.emailId, id));
    const words = searchText({ subject, participants, attachments: [], text });
    await tx.execute(
      sql`UPDATE email_contents SET subject = ${subject}, base_subject = ${baseSubject}, body = ${text}, codes = ${sql.param(codeWordsOfText(text))}::text[], word_pairs = ${wordPairsOf(text)}, preview = ${redact(row.preview)}, has_html = false, attachment_count = 0, search = to_tsvector('simple', ${words}) WHERE email_id = ${id}`,
    );
    await tx.delete(participantsTable).where(eq(participantsTable.emailId, id));
    await tx.execute(sql`INSERT INTO participants (email_id, role, position, address, domain, name)
      SELECT ${id}::bigint, p.role, (row_number() OVER ())::int - 1, p.address, p.domain, p.name FROM json_to_recordset(${JSON.stringify(participants)}::json) AS p(role text, address text, domain text, name text) ON CONFLICT DO NOTHING`);
    await tx.delete(attachmentsTable).where(eq(attachmentsTable.emailId, id));
    await tx.delete(meetings).where(eq(meetings.emailId, id));
    await tx.update(emails).set({ decidedAt: null, classValue: null, problems: [] }).where(eq(emails.id, id));
    await tx.update(dockets).set({ docket: [], questions: [] }).where(eq(dockets.emailId, id));
  }
}

async function eraseRecords(tx: Tx, addresses: readonly string[]): Promise<number> {
  const records = await recordsOf(tx, addresses);
  await tx.execute(sql`DELETE FROM own_record_addresses WHERE address = ANY(${sql.param([...addresses])}::text[])`);
  for (const { kind, id } of records) {
    await tx.delete(personAddresses).where(and(eq(personAddresses.kind, kind), eq(personAddresses.personId, id)));
    for (const { table } of Object.values(PEOPLE_OF))
      await tx.execute(sql`DELETE FROM ${table} WHERE kind = ${kind} AND person_id = ${id}`);
    await tx.delete(recordChanges).where(and(eq(recordChanges.kind, kind), eq(recordChanges.recordId, id)));
    await tx.execute(sql`DELETE FROM duplicate_refusals WHERE kind = ${kind} AND ${id} IN (one_id, other_id)`);
    await tx.execute(sql`DELETE FROM merges WHERE kind = ${kind} AND ${id} IN (kept_id, gone_id)`);
    await tx.execute(sql`UPDATE pins SET released_at = coalesce(released_at, now()) WHERE kind = ${kind} AND record_id = ${id}`);
    await tx.execute(
      sql`UPDATE emails SET decided_at = NULL WHERE id IN (SELECT email_id FROM filings WHERE kind = ${kind} AND record_id = ${id})`,
    );
    await tx.delete(filings).where(and(eq(filings.kind, kind), eq(filings.recordId, id)));
    await tx.execute(sql`DELETE FROM ${tableOf(kind)} WHERE id = ${id}`);
  }
  return records.length;
}

const textRow = z.object({ id: z.number(), text: z.string() });

const recordChangeRow = z.object({ id: z.number(), before: z.string(), after: z.string() });

/** What else keeps their name or address: what stood before runs, what trials found, words of members, summaries in words. */
async function eraseTraces(tx: Tx, emailIds: readonly number[], addresses: readonly string[], names: readonly string[]): Promise<void> {
  const ids = sql.param([...emailIds]);
  await tx.execute(sql`DELETE FROM run_befores WHERE email_id = ANY(${ids}::bigint[])`);
  await tx.execute(sql`DELETE FROM run_staged WHERE email_id = ANY(${ids}::bigint[])`);
  await tx.execute(sql`DELETE FROM trial_dockets WHERE email_id = ANY(${ids}::bigint[])`);
  await tx.execute(sql`DELETE FROM sharing_choices WHERE value = ANY(${sql.param([...addresses])}::text[])`);
  await tx.execute(sql`DELETE FROM own_keep_outs WHERE value = ANY(${sql.param([...addresses])}::text[])`);
  const quoted = sql.param(addresses.map((address) => containing(`"${address}"`)));
  for (const aside of ['run_taken_back', 'sealed_records'])
    await tx.execute(sql`DELETE FROM ${sql.identifier(aside)} WHERE stood::text ILIKE ANY(${quoted}::text[])`);
  // What an edit said before and after: such a step cannot be undone any more.
  await tx.execute(
    sql`DELETE FROM undo_log WHERE payload::text ILIKE ANY(${sql.param(tracesOf({ addresses, names }).map(containing))}::text[])`,
  );
  const redact = redactor({ addresses, names });
  const likes = sql.param(tracesOf({ addresses, names }).map(containing));
  for (const [table, column] of [
    ['repairs', 'summary'],
    ['undo_log', 'summary'],
    ['access_requests', 'note'],
    ['merges', 'gone_name'],
  ] as const) {
    const name = sql.identifier(table);
    const rows = await rowsOf(
      tx,
      textRow,
      sql`SELECT id, ${sql.identifier(column)} AS text FROM ${name} WHERE ${sql.identifier(column)} ILIKE ANY(${likes}::text[])`,
    );
    for (const row of rows) await tx.execute(sql`UPDATE ${name} SET ${sql.identifier(column)} = ${redact(row.text)} WHERE id = ${row.id}`);
  }
  const logged = await rowsOf(
    tx,
    recordChangeRow,
    sql`SELECT id, before, after FROM record_changes WHERE before ILIKE ANY(${likes}::text[]) OR after ILIKE ANY(${likes}::text[])`,
  );
  for (const row of logged)
    await tx
      .update(recordChanges)
      .set({ before: redact(row.before), after: redact(row.after) })
      .where(eq(recordChanges.id, row.id));
}

const COUNT_WORDS: Record<string, string> = {
  emailsErased: 'emails erased with their sources',
  emailsAnonymised: 'emails made anonymous, their sources erased',
  mentionsRemoved: 'emails of others from which the name was taken, their sources erased',
  records: 'records erased',
};

function certificateOf({ id, at, by, order, counts }: { id: number; at: string; by: string; order: Order; counts: Counts }): string {
  const lines = [
    `Certificate of erasure ${id}`,
    '',
    `On ${at} ${by} had all that Fulvet held about one person ${order.way === 'erase' ? 'erased' : 'made anonymous'}, for good.`,
    ...(order.reference ? [`Reference of the request: ${order.reference}`] : []),
    '',
    ...Object.entries(counts).map(([key, count]) => `${String(count).padStart(7)}  ${COUNT_WORDS[key] ?? key}`),
    '',
    'The person is kept out from now on: of each address a salted hash is kept, from which no one can tell the address.',
    'Not reached by this: mail in the mailboxes themselves, backups made before, files exported before, and rules that name an address.',
  ];
  const text = lines.join('\n');
  return `${text}\n\nSHA-256 of the lines above: ${createHash('sha256').update(text).digest('hex')}\n`;
}
