import type { CompiledRulebook } from '@fulvet/core';
import { identityOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { BlobStore } from '../../base/blobs/blobStore';
import type { Db, Tx } from '../../base/db/database';
import { takeMailLock } from '../../base/db/mailLock';
import { nextIds } from '../../base/db/nextIds';
import { insertContents, insertParticipants } from '../contents';
import { noteFilingAddresses } from './filingAddresses';
import { Forgotten, keptOf } from './forgotten';
import type { ReadMessage } from './readMessage';
import { placeInFamilies, setConversations } from './threadBatch';

/** The mailbox and the import that the messages of a batch were seen in. */
export interface SightingPlace {
  mailboxId: number;
  folder: string;
  /** Null for mail that is read from a server. */
  importId: number | null;
  arrivedAt: number;
}

/** What became of a message: a new email, an email known from elsewhere, one already seen in this very place. */
export type StoreResult = 'new' | 'other sighting' | 'known';

/**
 * Stores a batch in one transaction: sources, emails, sightings, conversations and the report. Running it again changes
 * nothing. Emails that are new, or known in more mailboxes or with more participants than before, are left undecided.
 *
 * @param also more to write in the same transaction, with the email's id for each message of the batch
 */
export async function storeBatch(
  db: Db,
  blobs: BlobStore,
  read: readonly ReadMessage[],
  place: SightingPlace,
  rulebook: CompiledRulebook,
  also: (tx: Tx, ids: readonly number[]) => Promise<void> = () => Promise.resolve(),
): Promise<StoreResult[]> {
  const identities = read.map((message) => identityOf(message.facts));
  const forgotten = await Forgotten.load(db);
  // Whoever was forgotten stays so: what names them is not stored, and neither is the source.
  const sourceless = new Set<ReadMessage>();
  const emptied = new Set<ReadMessage>();
  const batch = read.map((message) => {
    const kept = keptOf(message.facts, forgotten, (address, domain) => rulebook.isOurs(address, domain));
    if (!kept) return message;
    const without = { ...message, facts: kept.facts };
    sourceless.add(without);
    if (kept.emptied) emptied.add(without);
    return without;
  });
  const identityAt = new Map(batch.map((message, at) => [message, identities[at] ?? '']));
  const known = await seenBefore(db, identities, place);
  const first = batch.filter((_, at) => !known.has(identities[at] ?? '') && identities.indexOf(identities[at] ?? '') === at);
  const withBcc = batch.filter(
    (message, at) => known.get(identities[at] ?? '') === 'elsewhere' && message.facts.participants.some((one) => one.role === 'bcc'),
  );
  const stored = [...first, ...withBcc].filter((message) => !sourceless.has(message));
  const places = await blobs.put(stored.map((message) => message.raw));
  const blobOf = new Map(stored.map((message, at) => [message, places[at]?.sha256 ?? null]));

  return db.transaction(async (tx) => {
    await takeMailLock(tx);
    if (places.length > 0) {
      await tx.execute(sql`INSERT INTO blobs (sha256, pack, position, length, size)
        SELECT sha256, pack, position, length, size FROM json_to_recordset(${JSON.stringify(places)}::json) AS b(sha256 text, pack text, position bigint, length int, size int) ON CONFLICT DO NOTHING`);
    }
    const idByIdentity = await existingIds(tx, identities);
    const fresh = first.filter((message) => !idByIdentity.has(identityAt.get(message) ?? ''));
    const ids = await nextIds(tx, 'emails', fresh.length);
    const created = fresh.map((message, at) => ({
      ...message,
      id: ids[at] ?? 0,
      identity: identityAt.get(message) ?? '',
      emptied: emptied.has(message),
    }));
    for (const one of created) idByIdentity.set(one.identity, one.id);
    const newIds = new Set(ids);

    const { placed } = await placeInFamilies(tx, created, rulebook);
    await insertEmails(
      tx,
      created.map((one) => ({
        ...one,
        blob: blobOf.get(batchEntry(first, one)) ?? null,
        ...(placed.get(one.id) ?? { familyId: one.id, subjectParentId: null }),
      })),
      place,
    );
    await insertContents(
      tx,
      created.filter((one) => !one.emptied),
    );
    const moved = await setConversations(tx, [...new Set([...placed.values()].map((one) => one.familyId))]);
    const disturbed = moved.filter((id) => !newIds.has(id));

    const results = await insertSightings(tx, batch, identities, idByIdentity, newIds, place);
    await uniteKnown(tx, batch, identities, idByIdentity, newIds, blobOf);
    if (disturbed.length > 0) await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE id = ANY(${sql.param(disturbed)}::bigint[])`);
    if (place.importId !== null) await insertReport(tx, batch, identities, idByIdentity, results, place.importId);
    const emailIds = identities.map((identity) => idByIdentity.get(identity) ?? 0);
    await noteFilingAddresses(tx, batch, emailIds, rulebook);
    await also(tx, emailIds);
    return results;
  });
}

function batchEntry(first: readonly ReadMessage[], one: ReadMessage): ReadMessage {
  return first.find((message) => message.position === one.position) ?? one;
}

/** Which of these emails are stored already, and whether they were seen in this very place. */
async function seenBefore(db: Db, identities: readonly string[], place: SightingPlace): Promise<Map<string, 'here' | 'elsewhere'>> {
  const { rows } = await db.execute<{
    identity: string;
    here: boolean;
  }>(sql`SELECT e.identity, EXISTS (SELECT FROM sightings s WHERE s.email_id = e.id AND s.mailbox_id = ${place.mailboxId} AND s.folder = ${place.folder}) AS here
    FROM emails e WHERE e.identity = ANY(${sql.param([...identities])}::text[])`);
  return new Map(rows.map((row) => [row.identity, row.here ? 'here' : 'elsewhere']));
}

async function existingIds(tx: Tx, identities: readonly string[]): Promise<Map<string, number>> {
  const { rows } = await tx.execute<{ identity: string; id: number }>(
    sql`SELECT identity, id FROM emails WHERE identity = ANY(${sql.param([...identities])}::text[])`,
  );
  return new Map(rows.map((row) => [row.identity, row.id]));
}

type CreatedEmail = ReadMessage & { id: number };

async function insertEmails(
  tx: Tx,
  emails: readonly (CreatedEmail & { identity: string; blob: string | null; familyId: number; subjectParentId: number | null })[],
  place: SightingPlace,
): Promise<void> {
  if (emails.length === 0) return;
  const rows = emails.map(({ facts, ...one }) => ({
    id: one.id,
    identity: one.identity,
    message_id: facts.messageId,
    references: facts.references,
    family_id: one.familyId,
    conversation_id: one.id,
    subject_parent_id: one.subjectParentId,
    is_forward: facts.isForward,
    sent_at: new Date(facts.date.at).toISOString(),
    date_source: facts.date.source,
    arrived_at: new Date(place.arrivedAt).toISOString(),
    size: facts.size,
    blob: one.blob,
    mail_class: facts.mailClass,
    class_header: facts.classProof?.header ?? null,
    class_value: facts.classProof?.value ?? null,
    problems: facts.problems,
    sensitivity: facts.sensitivity,
    owner_ids: one.ownerIds,
  }));
  await tx.execute(sql`INSERT INTO emails (id, identity, message_id, "references", family_id, conversation_id, subject_parent_id, is_forward, sent_at, date_source, arrived_at, size, blob, mail_class, class_header, class_value, problems, sensitivity, owner_ids)
    OVERRIDING SYSTEM VALUE
    SELECT id, identity, message_id, ARRAY(SELECT json_array_elements_text("references")), family_id, conversation_id, subject_parent_id, is_forward, sent_at, date_source, arrived_at, size, blob, mail_class, class_header, class_value, problems, sensitivity, ARRAY(SELECT json_array_elements_text(owner_ids)::bigint)
    FROM json_to_recordset(${JSON.stringify(rows)}::json) AS e(id bigint, identity text, message_id text, "references" json, family_id bigint, conversation_id bigint, subject_parent_id bigint, is_forward boolean, sent_at timestamptz, date_source text, arrived_at timestamptz, size int, blob text, mail_class text, class_header text, class_value text, problems jsonb, sensitivity text, owner_ids json)`);
}

async function insertSightings(
  tx: Tx,
  batch: readonly ReadMessage[],
  identities: readonly string[],
  idByIdentity: ReadonlyMap<string, number>,
  newIds: ReadonlySet<number>,
  place: SightingPlace,
): Promise<StoreResult[]> {
  const ids = batch.map((_, at) => idByIdentity.get(identities[at] ?? '') ?? 0);
  const inserted = await tx.execute<{ email_id: number }>(sql`INSERT INTO sightings (email_id, mailbox_id, folder, import_id)
    SELECT DISTINCT id, ${place.mailboxId}::bigint, ${place.folder}, ${place.importId}::bigint FROM unnest(${sql.param(ids)}::bigint[]) AS n(id) ON CONFLICT DO NOTHING RETURNING email_id`);
  const seenNow = new Set(inserted.rows.map((row) => row.email_id));
  const told = new Set<number>();
  return ids.map((id) => {
    if (told.has(id) || !seenNow.has(id)) return 'known';
    told.add(id);
    return newIds.has(id) ? 'new' : 'other sighting';
  });
}

/** Known emails gain what this sighting knows: participants (only the sender's copy has the Bcc), owner, a better class. */
async function uniteKnown(
  tx: Tx,
  batch: readonly ReadMessage[],
  identities: readonly string[],
  idByIdentity: ReadonlyMap<string, number>,
  newIds: ReadonlySet<number>,
  blobOf: ReadonlyMap<ReadMessage, string | null>,
): Promise<void> {
  const known = batch
    .map((message, at) => ({ id: idByIdentity.get(identities[at] ?? '') ?? 0, facts: message.facts, message }))
    .filter((one, at, all) => !newIds.has(one.id) || all.findIndex((other) => other.id === one.id) !== at);
  if (known.length === 0) return;
  const withContent = await tx.execute<{ email_id: number }>(
    sql`SELECT email_id FROM email_contents WHERE email_id = ANY(${sql.param(known.map((one) => one.id))}::bigint[])`,
  );
  const hasContent = new Set(withContent.rows.map((row) => row.email_id));
  const gained = await insertParticipants(
    tx,
    known.filter((one) => hasContent.has(one.id)),
  );
  const withBcc = known.filter((one) => blobOf.get(one.message));
  if (withBcc.length > 0) {
    await tx.execute(
      sql`UPDATE emails e SET blob = n.blob FROM unnest(${sql.param(withBcc.map((one) => one.id))}::bigint[], ${sql.param(withBcc.map((one) => blobOf.get(one.message) ?? ''))}::text[]) AS n(id, blob) WHERE e.id = n.id AND e.blob IS DISTINCT FROM n.blob`,
    );
  }
  const owners = known.flatMap((one) => one.message.ownerIds.map((owner) => ({ id: one.id, owner })));
  await tx.execute(sql`UPDATE emails e SET owner_ids = e.owner_ids || n.more, decided_at = NULL FROM (
    SELECT p.id, array_agg(DISTINCT p.owner) AS more FROM unnest(${sql.param(owners.map((one) => one.id))}::bigint[], ${sql.param(owners.map((one) => one.owner))}::bigint[]) AS p(id, owner)
    JOIN emails x ON x.id = p.id WHERE NOT p.owner = ANY(x.owner_ids) GROUP BY p.id) n WHERE e.id = n.id`);
  const direct = known.filter((one) => one.facts.mailClass !== 'newsletter');
  await tx.execute(sql`UPDATE emails e SET mail_class = n.class, class_header = n.header, class_value = n.value, decided_at = NULL
    FROM unnest(${sql.param(direct.map((one) => one.id))}::bigint[], ${sql.param(direct.map((one) => one.facts.mailClass))}::text[], ${sql.param(direct.map((one) => one.facts.classProof?.header ?? null))}::text[], ${sql.param(direct.map((one) => one.facts.classProof?.value ?? null))}::text[]) AS n(id, class, header, value)
    WHERE e.id = n.id AND e.mail_class = 'newsletter'`);
  const undecided = [...new Set([...gained, ...withBcc.filter((one) => !hasContent.has(one.id)).map((one) => one.id)])];
  if (undecided.length > 0) await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE id = ANY(${sql.param(undecided)}::bigint[])`);
}

async function insertReport(
  tx: Tx,
  batch: readonly ReadMessage[],
  identities: readonly string[],
  idByIdentity: ReadonlyMap<string, number>,
  results: readonly StoreResult[],
  importId: number,
): Promise<void> {
  const rows = batch.map((message, at) => ({
    position: message.position,
    file: message.file,
    result: results[at],
    email_id: idByIdentity.get(identities[at] ?? ''),
    problems: message.facts.problems,
  }));
  await tx.execute(sql`INSERT INTO import_items (import_id, position, file, result, email_id, problems)
    SELECT ${importId}::bigint, position, file, result, email_id, problems FROM json_to_recordset(${JSON.stringify(rows)}::json) AS i(position int, file text, result text, email_id bigint, problems jsonb)
    ON CONFLICT (import_id, position) DO NOTHING`);
}
