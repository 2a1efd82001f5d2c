import { z } from 'zod';
import { rowsOf } from '../../base/db/rows';
import type { EmailFacts } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import { insertParticipants } from '../contents';
import type { ReadMessage } from './readMessage';

const knownRow = z.object({ id: z.number(), has_content: z.boolean() });

/**
 * Known emails take the blind copies from their sender's copy, the first time that one is seen; what another copy had said of them goes. An email
 * that is kept out has no participants yet: it takes the sender's source instead, from which they are read when it is let in.
 */
export async function takeBcc(tx: Tx, copies: readonly { id: number; facts: EmailFacts; blob: string | null }[]): Promise<void> {
  if (copies.length === 0) return;
  const rows = await rowsOf(
    tx,
    knownRow,
    sql`
    SELECT n.id, EXISTS (SELECT FROM email_contents c WHERE c.email_id = n.id) AS has_content FROM unnest(${sql.param(copies.map((copy) => copy.id))}::bigint[]) AS n(id)
    WHERE NOT EXISTS (SELECT FROM sightings s WHERE s.email_id = n.id AND s.is_senders AND s.names_bcc)`,
  );
  const hasContent = new Map(rows.map((row) => [row.id, row.has_content]));
  const first = copies.filter((copy, at) => hasContent.has(copy.id) && copies.findIndex((other) => other.id === copy.id) === at);
  if (first.length === 0) return;
  const ids = sql`${sql.param(first.map((copy) => copy.id))}::bigint[]`;
  await tx.execute(sql`DELETE FROM participants WHERE role = 'bcc' AND email_id = ANY(${ids})`);
  await tx.execute(sql`UPDATE sightings SET names_bcc = false WHERE email_id = ANY(${ids})`);
  await insertParticipants(
    tx,
    first
      .filter((copy) => hasContent.get(copy.id))
      .map((copy) => ({
        id: copy.id,
        facts: { ...copy.facts, participants: copy.facts.participants.filter((person) => person.role === 'bcc') },
      })),
  );
  await tx.execute(sql`UPDATE emails e SET decided_at = NULL, blob = CASE WHEN n.replaces THEN coalesce(n.blob, e.blob) ELSE e.blob END
    FROM json_to_recordset(${JSON.stringify(first.map((copy) => ({ id: copy.id, blob: copy.blob, replaces: !hasContent.get(copy.id) })))}::json) AS n(id bigint, blob text, replaces boolean) WHERE e.id = n.id`);
}

/** Known emails gain what this copy proves: owners, and a better class. */
export async function uniteKnown(
  tx: Tx,
  batch: readonly ReadMessage[],
  identities: readonly string[],
  idByIdentity: ReadonlyMap<string, number>,
  newIds: ReadonlySet<number>,
): Promise<void> {
  const known = batch
    .map((message, at) => ({ id: idByIdentity.get(identities[at] ?? '') ?? 0, facts: message.facts, message }))
    .filter((item, at, all) => !newIds.has(item.id) || all.findIndex((other) => other.id === item.id) !== at);
  if (known.length === 0) return;
  const owners = known.flatMap((item) => item.message.ownerIds.map((owner) => ({ id: item.id, owner })));
  await tx.execute(sql`UPDATE emails e SET owner_ids = e.owner_ids || n.more, decided_at = NULL FROM (
    SELECT p.id, array_agg(DISTINCT p.owner) AS more FROM unnest(${sql.param(owners.map((owner) => owner.id))}::bigint[], ${sql.param(owners.map((owner) => owner.owner))}::bigint[]) AS p(id, owner)
    JOIN emails x ON x.id = p.id WHERE NOT p.owner = ANY(x.owner_ids) GROUP BY p.id) n WHERE e.id = n.id`);
  const direct = known.filter((item) => item.facts.mailClass !== 'newsletter');
  await tx.execute(sql`UPDATE emails e SET mail_class = n.class, class_header = n.header, class_value = n.value, decided_at = NULL
    FROM unnest(${sql.param(direct.map((item) => item.id))}::bigint[], ${sql.param(direct.map((item) => item.facts.mailClass))}::text[], ${sql.param(direct.map((item) => item.facts.classProof?.header ?? null))}::text[], ${sql.param(direct.map((item) => item.facts.classProof?.value ?? null))}::text[]) AS n(id, class, header, value)
    WHERE e.id = n.id AND e.mail_class = 'newsletter'`);
}
