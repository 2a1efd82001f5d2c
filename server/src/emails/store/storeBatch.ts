import { z } from 'zod';
import { manyRowsOf } from '../../base/db/rows';
import type { CompiledRulebook } from '@fulvet/core';
import { formerIdentityOf } from '@fulvet/core';
import { asKept } from './sentForms';
import { sql } from 'drizzle-orm';
import type { BlobPlace } from '../../base/blobs/blobStore';
import type { Sources } from '../../base/reading/sources';
import type { Db, Tx } from '../../base/db/database';
import { takeMailLock } from '../../base/db/mailLock';
import { nextIds } from '../../base/db/nextIds';
import { insertContents } from '../contents';
import { isDamaged, repairSources } from '../damagedSources';
import { noteDeliveryFailures } from './deliveryFailures';
import { noteFilingAddresses } from './filingAddresses';
import { Forgotten, keptOf } from './forgotten';
import type { ReadMessage } from './readMessage';
import { placeInFamilies, setConversations } from './threadBatch';
import { insertThreadHashes } from './threadHashes';
import { takeBcc, uniteKnown } from './uniteKnown';

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
 * nothing. Emails that are new, or known in more mailboxes or with more blind copies than before, are left undecided.
 *
 * A copy of a known email makes those who use its mailbox owners too, since it says all that the email says. It never replaces a source or adds
 * participants; the sender's own copy alone tells who got a blind copy.
 *
 * @param also more to write in the same transaction, with the email's id for each message of the batch
 */
export async function storeBatch(
  db: Db,
  blobs: Sources,
  arrived: readonly ReadMessage[],
  place: SightingPlace,
  rulebook: CompiledRulebook,
  also: (tx: Tx, ids: readonly number[]) => Promise<void> = () => Promise.resolve(),
): Promise<StoreResult[]> {
  const { read, identities } = await asKept(db, blobs, arrived, rulebook);
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
  const senders = await sendersCopies(db, batch, place.mailboxId);
  const withBcc = batch.filter(
    (message, at) => known.get(identities[at] ?? '')?.place === 'elsewhere' && senders.has(message) && namesBcc(message),
  );
  const repaired = new Set(
    batch.filter((_, at) => known.get(identities[at] ?? '')?.damaged && identities.indexOf(identities[at] ?? '') === at),
  );
  const stored = [...first, ...withBcc.filter((message) => !repaired.has(message)), ...repaired].filter(
    (message) => !sourceless.has(message),
  );
  const places = await blobs.put(stored.map((message) => message.raw));
  const blobOf = new Map(stored.map((message, at) => [message, places[at]?.sha256 ?? null]));

  return db.transaction(async (tx) => {
    await takeMailLock(tx);
    await notePlaces(tx, places);
    await adoptContentless(tx, batch, identities);
    const idByIdentity = await existingIds(tx, identities);
    const fresh = first.filter((message) => !idByIdentity.has(identityAt.get(message) ?? ''));
    const ids = await nextIds(tx, 'emails', fresh.length);
    const created = fresh.map((message, at) => ({
      ...message,
      id: ids[at] ?? 0,
      identity: identityAt.get(message) ?? '',
      emptied: emptied.has(message),
    }));
    for (const item of created) idByIdentity.set(item.identity, item.id);
    const newIds = new Set(ids);

    const { placed, hashed } = await placeInFamilies(tx, created, rulebook);
    await insertEmails(
      tx,
      created.map((item) => ({
        ...item,
        blob: blobOf.get(batchEntry(first, item)) ?? null,
        ...(placed.get(item.id) ?? { familyId: item.id, subjectParentId: null }),
      })),
      place,
    );
    await insertThreadHashes(
      tx,
      [...hashed].map(([id, traits]) => ({ id, ...traits })),
    );
    await noteDeliveryFailures(tx, created, rulebook);
    await insertContents(
      tx,
      created.filter((item) => !item.emptied),
    );
    const moved = await setConversations(tx, [...new Set([...placed.values()].map((item) => item.familyId))]);
    const disturbed = moved.filter((id) => !newIds.has(id));

    await takeBcc(
      tx,
      withBcc.map((message) => ({
        id: idByIdentity.get(identityAt.get(message) ?? '') ?? 0,
        facts: message.facts,
        blob: blobOf.get(message) ?? null,
      })),
    );
    await repairSources(
      tx,
      [...repaired].map((message) => ({ id: idByIdentity.get(identityAt.get(message) ?? '') ?? 0, blob: blobOf.get(message) ?? null })),
    );
    const results = await insertSightings(tx, { batch, identities, idByIdentity, newIds, senders }, place);
    await uniteKnown(tx, batch, identities, idByIdentity, newIds);
    if (disturbed.length > 0) await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE id = ANY(${sql.param(disturbed)}::bigint[])`);
    if (place.importId !== null) await insertReport(tx, batch, identities, idByIdentity, results, place.importId);
    const emailIds = identities.map((identity) => idByIdentity.get(identity) ?? 0);
    await noteFilingAddresses(tx, batch, emailIds, rulebook);
    await also(tx, emailIds);
    return results;
  });
}

/** Notes where sources lie. The same source may have been stored before; where that is damaged, the new place counts. */
export async function notePlaces(tx: Tx, places: readonly BlobPlace[]): Promise<void> {
  if (places.length === 0) return;
  await tx.execute(sql`INSERT INTO blobs (sha256, pack, position, length, size)
    SELECT sha256, pack, position, length, size FROM json_to_recordset(${JSON.stringify(places)}::json) AS b(sha256 text, pack text, position bigint, length int, size int)
    ON CONFLICT (sha256) DO UPDATE SET pack = excluded.pack, position = excluded.position, length = excluded.length
      WHERE EXISTS (SELECT FROM emails e WHERE e.blob = excluded.sha256 AND ${isDamaged})`);
}

function batchEntry(first: readonly ReadMessage[], item: ReadMessage): ReadMessage {
  return first.find((message) => message.position === item.position) ?? item;
}

interface SeenBefore {
  place: 'here' | 'elsewhere';
  damaged: boolean;
}

const sightingRow = z.object({ identity: z.string(), here: z.boolean(), damaged: z.boolean() });

/** Which of these emails are stored already, whether they were seen in this very place, and whether their source is damaged. */
async function seenBefore(db: Db, identities: readonly string[], place: SightingPlace): Promise<Map<string, SeenBefore>> {
  const rows = await manyRowsOf(
    db,
    sightingRow,
    sql`SELECT e.identity, EXISTS (SELECT FROM sightings s WHERE s.email_id = e.id AND s.mailbox_id = ${place.mailboxId} AND s.folder = ${place.folder}) AS here, ${isDamaged} AS damaged
    FROM emails e WHERE e.identity = ANY(${sql.param([...identities])}::text[])`,
  );
  return new Map(rows.map((row) => [row.identity, { place: row.here ? 'here' : 'elsewhere', damaged: row.damaged }]));
}

const emailRow = z.object({ identity: z.string(), id: z.number() });

async function existingIds(tx: Tx, identities: readonly string[]): Promise<Map<string, number>> {
  const rows = await manyRowsOf(
    tx,
    emailRow,
    sql`SELECT identity, id FROM emails WHERE identity = ANY(${sql.param([...identities])}::text[])`,
  );
  return new Map(rows.map((row) => [row.identity, row.id]));
}

const mailboxRow = z.object({ address: z.string() });

/** The messages of a batch that lie in their sender's own mailbox. */
async function sendersCopies(db: Db, batch: readonly ReadMessage[], mailboxId: number): Promise<Set<ReadMessage>> {
  const rows = await manyRowsOf(
    db,
    mailboxRow,
    sql`SELECT m.address FROM mailboxes m WHERE m.id = ${mailboxId}
    UNION SELECT unnest(m.aliases) FROM mailboxes m WHERE m.id = ${mailboxId}
    UNION SELECT lower(u.email) FROM users u JOIN mailboxes m ON m.owner_id = u.id WHERE m.id = ${mailboxId}`,
  );
  const own = new Set(rows.map((row) => row.address));
  return new Set(batch.filter(({ facts }) => facts.participants.some((person) => person.role === 'from' && own.has(person.address))));
}

const namesBcc = ({ facts }: ReadMessage): boolean => facts.participants.some((person) => person.role === 'bcc');

/** Emails whose identity was computed in the former way and whose content is not kept are recognised by it, and take the new one. */
async function adoptContentless(tx: Tx, batch: readonly ReadMessage[], identities: readonly string[]): Promise<void> {
  const former = batch.map((message) => formerIdentityOf(message.facts));
  await tx.execute(sql`UPDATE emails e SET identity = n.identity, identity_version = 2
    FROM (SELECT DISTINCT ON (identity) former, identity FROM unnest(${sql.param(former)}::text[], ${sql.param([...identities])}::text[]) AS n(former, identity) ORDER BY identity, former) n
    WHERE e.identity = n.former AND e.identity_version = 1 AND e.blob IS NULL AND NOT EXISTS (SELECT FROM emails x WHERE x.identity = n.identity)
      AND NOT EXISTS (SELECT FROM email_contents c WHERE c.email_id = e.id)`);
}

type CreatedEmail = ReadMessage & { id: number };

async function insertEmails(
  tx: Tx,
  emails: readonly (CreatedEmail & { identity: string; blob: string | null; familyId: number; subjectParentId: number | null })[],
  place: SightingPlace,
): Promise<void> {
  if (emails.length === 0) return;
  const rows = emails.map(({ facts, ...item }) => ({
    id: item.id,
    identity: item.identity,
    identity_version: 2,
    message_id: facts.messageId,
    references: facts.references,
    family_id: item.familyId,
    conversation_id: item.id,
    subject_parent_id: item.subjectParentId,
    is_reply: facts.isReply,
    is_forward: facts.isForward,
    sent_at: new Date(facts.date.at).toISOString(),
    date_source: facts.date.source,
    arrived_at: new Date(place.arrivedAt).toISOString(),
    size: facts.size,
    blob: item.blob,
    mail_class: facts.mailClass,
    class_header: facts.classProof?.header ?? null,
    class_value: facts.classProof?.value ?? null,
    problems: facts.problems,
    sensitivity: facts.sensitivity,
    sender_check: facts.senderCheck,
    author_trusted: facts.authorTrusted,
    owner_ids: item.ownerIds,
  }));
  await tx.execute(sql`INSERT INTO emails (id, identity, identity_version, message_id, "references", family_id, conversation_id, subject_parent_id, is_reply, is_forward, sent_at, date_source, arrived_at, size, blob, mail_class, class_header, class_value, problems, sensitivity, sender_check, author_trusted, owner_ids)
    OVERRIDING SYSTEM VALUE
    SELECT id, identity, identity_version, message_id, ARRAY(SELECT json_array_elements_text("references")), family_id, conversation_id, subject_parent_id, is_reply, is_forward, sent_at, date_source, arrived_at, size, blob, mail_class, class_header, class_value, problems, sensitivity, sender_check, author_trusted, ARRAY(SELECT json_array_elements_text(owner_ids)::bigint)
    FROM json_to_recordset(${JSON.stringify(rows)}::json) AS e(id bigint, identity text, identity_version int, message_id text, "references" json, family_id bigint, conversation_id bigint, subject_parent_id bigint, is_reply boolean, is_forward boolean, sent_at timestamptz, date_source text, arrived_at timestamptz, size int, blob text, mail_class text, class_header text, class_value text, problems jsonb, sensitivity text, sender_check text, author_trusted boolean, owner_ids json)`);
}

interface StoredBatch {
  batch: readonly ReadMessage[];
  identities: readonly string[];
  idByIdentity: ReadonlyMap<string, number>;
  newIds: ReadonlySet<number>;
  senders: ReadonlySet<ReadMessage>;
}

const sightedRow = z.object({ email_id: z.number() });

async function insertSightings(tx: Tx, stored: StoredBatch, place: SightingPlace): Promise<StoreResult[]> {
  const { batch, identities, idByIdentity, newIds, senders } = stored;
  const ids = batch.map((_, at) => idByIdentity.get(identities[at] ?? '') ?? 0);
  const rows = batch.map((message, at) => ({
    id: ids[at],
    senders: senders.has(message),
    bcc: namesBcc(message) && (senders.has(message) || newIds.has(ids[at] ?? 0)),
  }));
  const inserted = await manyRowsOf(
    tx,
    sightedRow,
    sql`INSERT INTO sightings (email_id, mailbox_id, folder, import_id, is_senders, names_bcc)
    SELECT id, ${place.mailboxId}::bigint, ${place.folder}, ${place.importId}::bigint, bool_or(senders), bool_or(bcc)
    FROM json_to_recordset(${JSON.stringify(rows)}::json) AS n(id bigint, senders boolean, bcc boolean) GROUP BY id ON CONFLICT DO NOTHING RETURNING email_id`,
  );
  const seenNow = new Set(inserted.map((row) => row.email_id));
  const told = new Set<number>();
  return ids.map((id) => {
    if (told.has(id) || !seenNow.has(id)) return 'known';
    told.add(id);
    return newIds.has(id) ? 'new' : 'other sighting';
  });
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
