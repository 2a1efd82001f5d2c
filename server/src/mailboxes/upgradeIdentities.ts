import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { EmailFacts } from '@fulvet/core';
import { SENDER_CHECKS, identityOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Logger } from 'pino';
import type { Database, Tx } from '../base/db/database';
import type { Sources, StoredSource } from '../base/reading/sources';
import { insertParticipants } from '../emails/contents';
import { resetReadersOf } from '../emails/owners';

const BATCH = 200;

interface Former extends StoredSource {
  [column: string]: unknown;
  id: number;
}

const emailRow = z.object({
  id: z.number(),
  arrived: z.number(),
  sender_check: z.enum(SENDER_CHECKS),
  author_trusted: z.boolean(),
  length: z.number(),
  size: z.number(),
  position: z.number(),
  pack: z.string(),
});

/**
 * Brings emails that were stored while copies were recognised without their content to the present identity, from their sources.
 *
 * Copies that had been united then cannot all be compared any more: one source is kept of each email. So an email keeps what its source says, the
 * mailbox in which it was first seen, and those that the source names. Other mailboxes are separated from it: mail servers are asked for their copy again,
 * and a copy that says the same is united with it again; an imported one is, when its file is imported again.
 *
 * @returns how many emails were checked, and how many copies were separated
 */
export async function upgradeIdentities(
  database: Database,
  sources: Sources,
  log: Logger,
): Promise<{ checked: number; separated: number }> {
  const sum = { checked: 0, separated: 0 };
  for (let after = 0; ;) {
    const rows = await rowsOf(
      database.worker,
      emailRow,
      sql`
      SELECT e.id, e.sender_check, e.author_trusted, (extract(epoch FROM e.arrived_at) * 1000)::float8 AS arrived, b.pack, b.position, b.length, b.size
      FROM emails e JOIN blobs b ON b.sha256 = e.blob WHERE e.identity_version = 1 AND e.id > ${after} ORDER BY e.id LIMIT ${BATCH}`,
    );
    const last = rows.at(-1);
    if (!last) break;
    const read = await sources.readStored(rows);
    sum.separated += await database.work((tx) => upgradeBatch(tx, rows, read));
    sum.checked += rows.length;
    after = last.id;
  }
  if (sum.checked > 0) log.warn(sum, 'emails were checked against their sources');
  return sum;
}

async function upgradeBatch(tx: Tx, rows: readonly Former[], read: readonly (EmailFacts | null)[]): Promise<number> {
  const known = rows.flatMap(({ id }, at) => {
    const facts = read[at];
    return facts ? [{ id, facts }] : [];
  });
  const identities = known.map(({ id, facts }) => ({ id, identity: identityOf(facts) }));
  // A source that cannot be read keeps its old identity, which no copy has.
  await tx.execute(sql`UPDATE emails e SET identity_version = 2, identity = coalesce(n.identity, e.identity)
    FROM unnest(${sql.param(rows.map((row) => row.id))}::bigint[]) AS r(id) LEFT JOIN json_to_recordset(${JSON.stringify(identities)}::json) AS n(id bigint, identity text) ON n.id = r.id
      AND NOT EXISTS (SELECT FROM emails x WHERE x.identity = n.identity AND x.id <> n.id)
    WHERE e.id = r.id`);
  const separated = await separate(tx, known);
  if (separated.length > 0) await resetReadersOf(tx, separated);
  await dropForeignParticipants(tx, known);
  return separated.length;
}

const sightingRow = z.object({ email_id: z.number(), mailbox_id: z.number() });

/** Takes the sightings that nothing but a former identity ties to an email off it. @returns the emails that lost one */
async function separate(tx: Tx, emails: readonly { id: number; facts: EmailFacts }[]): Promise<number[]> {
  const named = emails.map(({ id, facts }) => ({
    id,
    addresses: [...facts.participants.map((participant) => participant.address), ...facts.deliveredTo],
  }));
  const rows = await rowsOf(
    tx,
    sightingRow,
    sql`
    DELETE FROM sightings s USING json_to_recordset(${JSON.stringify(named)}::json) AS n(id bigint, addresses json), mailboxes m
    WHERE s.email_id = n.id AND m.id = s.mailbox_id
      AND s.mailbox_id <> (SELECT f.mailbox_id FROM sightings f WHERE f.email_id = n.id ORDER BY f.seen_at, f.mailbox_id LIMIT 1)
      AND NOT EXISTS (SELECT FROM json_array_elements_text(n.addresses) a LEFT JOIN users u ON lower(u.email) = a WHERE a = m.address OR a = ANY (m.aliases) OR u.id = m.owner_id)
    RETURNING s.email_id, s.mailbox_id`,
  );
  if (rows.length === 0) return [];
  const pairs = sql`unnest(${sql.param(rows.map((row) => row.email_id))}::bigint[], ${sql.param(rows.map((row) => row.mailbox_id))}::bigint[]) AS p(email, mailbox)`;
  await tx.execute(
    sql`DELETE FROM folder_messages x USING mailbox_folders f, ${pairs} WHERE f.id = x.folder_id AND x.email_id = p.email AND f.mailbox_id = p.mailbox`,
  );
  const ids = [...new Set(rows.map((row) => row.email_id))];
  await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE id = ANY(${sql.param(ids)}::bigint[])`);
  return ids;
}

const participantRow = z.object({ email_id: z.number() });

/** Participants whom the source does not name came from a copy; they go. Blind copies that the sender's copy named stay. */
async function dropForeignParticipants(tx: Tx, emails: readonly { id: number; facts: EmailFacts }[]): Promise<void> {
  const named = emails.flatMap(({ id, facts }) => facts.participants.map(({ role, address }) => ({ id, role, address })));
  const rows = await rowsOf(
    tx,
    participantRow,
    sql`
    DELETE FROM participants p WHERE p.email_id = ANY(${sql.param(emails.map(({ id }) => id))}::bigint[])
      AND NOT EXISTS (SELECT FROM json_to_recordset(${JSON.stringify(named)}::json) AS n(id bigint, role text, address text) WHERE n.id = p.email_id AND n.role = p.role AND n.address = p.address)
      AND NOT (p.role = 'bcc' AND EXISTS (SELECT FROM sightings s WHERE s.email_id = p.email_id AND s.is_senders))
    RETURNING p.email_id`,
  );
  const changed = new Set(rows.map((row) => row.email_id));
  if (changed.size === 0) return;
  await insertParticipants(
    tx,
    emails.filter(({ id }) => changed.has(id)),
  );
  await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE id = ANY(${sql.param([...changed])}::bigint[])`);
}
