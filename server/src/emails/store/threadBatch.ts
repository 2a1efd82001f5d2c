import { z } from 'zod';
import { manyRowsOf } from '../../base/db/rows';
import { SubjectPeers, threadConversations } from '@fulvet/core';
import type { CompiledRulebook, EmailFacts } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Tx } from '../../base/db/database';
import type { HashedTraits } from './threadHashes';
import { ThreadHasher } from './threadHashes';

/** A new email on its way into the store. */
export interface NewEmail {
  id: number;
  facts: EmailFacts;
}

/** Where new emails stand among the conversations, and what of the earlier ones changed by them. */
export interface ThreadedBatch {
  /** By id of a new email. */
  placed: Map<number, { familyId: number; subjectParentId: number | null }>;
  hashed: Map<number, HashedTraits>;
}

const subjectRow = z.object({
  id: z.number(),
  key: z.string(),
  at: z.number(),
  family_id: z.number(),
  has_references: z.boolean(),
  is_reply: z.boolean(),
  is_forward: z.boolean(),
  subject_parent_id: z.number().nullable(),
  externals: z.array(z.string()),
  copied: z.array(z.string()),
});

/**
 * Finds the families of new emails: emails that refer to each other, by ids or by subject. Earlier families that a new email
 * ties together become one; their emails are re-pointed here. Conversations within the families are set afterwards, by
 * {@link setConversations}.
 */
export async function placeInFamilies(tx: Tx, emails: readonly NewEmail[], rulebook: CompiledRulebook): Promise<ThreadedBatch> {
  const families = new Families();
  const known = await familiesOfIds(tx, emails);
  const familyOfId = new Map(known);
  for (const { id, facts } of emails) {
    for (const messageId of idsOf(facts)) {
      const family = familyOfId.get(messageId);
      if (family === undefined) familyOfId.set(messageId, id);
      else families.join(id, family);
    }
  }
  const hasher = await ThreadHasher.load(tx);
  const hashed = new Map(emails.map(({ id, facts }) => [id, hasher.traits(facts, rulebook)]));
  const subjectParents = await joinBySubject(tx, emails, hashed, families);

  const placed = new Map(emails.map(({ id }) => [id, { familyId: families.of(id), subjectParentId: subjectParents.get(id) ?? null }]));
  const moved = families.moved(new Set(emails.map(({ id }) => id)));
  if (moved.length > 0) await movePointers(tx, moved);
  const newIds = [...familyOfId]
    .filter(([messageId]) => !known.has(messageId))
    .map(([messageId, family]) => [messageId, families.of(family)] as const);
  if (newIds.length > 0) {
    await tx.execute(sql`INSERT INTO thread_ids (message_id, family_id)
      SELECT * FROM unnest(${sql.param(newIds.map(([value]) => value))}::text[], ${sql.param(newIds.map(([, family]) => family))}::bigint[]) ON CONFLICT DO NOTHING`);
  }
  return { placed, hashed };
}

const emailRow = z.object({
  id: z.number(),
  message_id: z.string().nullable(),
  refs: z.array(z.string()),
  at: z.number(),
  is_forward: z.boolean(),
  subject_key: z.string().nullable(),
  subject_parent_id: z.number().nullable(),
  conversation_id: z.number(),
  family_id: z.number(),
});

/**
 * Sets the conversation of every email of these families: the lowest id of the emails that the threading puts together.
 *
 * @returns ids of the earlier emails whose conversation changed
 */
export async function setConversations(tx: Tx, familyIds: readonly number[]): Promise<number[]> {
  if (familyIds.length === 0) return [];
  const rows = await manyRowsOf(
    tx,
    emailRow,
    sql`SELECT e.id, e.message_id, e.references AS refs, (extract(epoch FROM e.sent_at) * 1000)::float8 AS at, e.is_forward, h.subject AS subject_key, e.subject_parent_id, e.conversation_id, e.family_id
    FROM emails e LEFT JOIN thread_hashes h ON h.email_id = e.id WHERE e.family_id = ANY(${sql.param([...familyIds])}::bigint[])`,
  );
  const names = threadConversations(
    rows.map((row) => ({
      key: String(row.id).padStart(16, '0'),
      messageId: row.message_id,
      references: row.refs,
      at: row.at,
      isForward: row.is_forward,
      subjectKey: row.subject_key ?? '',
      subjectParent: row.subject_parent_id === null ? null : String(row.subject_parent_id).padStart(16, '0'),
    })),
  );
  const lowest = new Map<string, number>();
  for (const [key, name] of names) lowest.set(name, Math.min(lowest.get(name) ?? Infinity, Number(key)));
  const changed = rows
    .map((row) => ({
      id: row.id,
      before: row.conversation_id,
      now: lowest.get(names.get(String(row.id).padStart(16, '0')) ?? '') ?? row.id,
    }))
    .filter((row) => row.before !== row.now);
  if (changed.length > 0) {
    await tx.execute(
      sql`UPDATE emails e SET conversation_id = n.conversation FROM unnest(${sql.param(changed.map((item) => item.id))}::bigint[], ${sql.param(changed.map((item) => item.now))}::bigint[]) AS n(id, conversation) WHERE e.id = n.id`,
    );
  }
  return changed.map((item) => item.id);
}

function idsOf(facts: EmailFacts): string[] {
  return facts.messageId === null ? facts.references : [facts.messageId, ...facts.references];
}

const threadIdRow = z.object({ message_id: z.string(), family_id: z.number() });

async function familiesOfIds(tx: Tx, emails: readonly NewEmail[]): Promise<Map<string, number>> {
  const ids = [...new Set(emails.flatMap(({ facts }) => idsOf(facts)))];
  if (ids.length === 0) return new Map();
  const rows = await manyRowsOf(
    tx,
    threadIdRow,
    sql`SELECT message_id, family_id FROM thread_ids WHERE message_id = ANY(${sql.param(ids)}::text[])`,
  );
  return new Map(rows.map((row) => [row.message_id, row.family_id]));
}

/** Joins emails without references to the nearest earlier one of the same subject, the new ones and those that a new one is nearer to. */
async function joinBySubject(
  tx: Tx,
  emails: readonly NewEmail[],
  hashed: ReadonlyMap<number, HashedTraits>,
  families: Families,
): Promise<Map<number, number>> {
  const parents = new Map<number, number>();
  const fresh = emails.flatMap(({ id, facts }) => {
    const traits = hashed.get(id);
    if (!traits || traits.subject === '') return [];
    return {
      id,
      key: traits.subject,
      at: facts.date.at,
      family_id: id,
      has_references: facts.references.length > 0,
      is_reply: facts.isReply,
      is_forward: facts.isForward,
      subject_parent_id: null,
      externals: traits.people,
      copied: traits.copied,
      isNew: true,
    };
  });
  if (fresh.length === 0) return parents;
  const rows = await manyRowsOf(
    tx,
    subjectRow,
    sql`
    WITH wanted AS MATERIALIZED (
      SELECT key, min(at) - interval '30 days' AS since, max(at) + interval '30 days' AS until
      FROM unnest(${sql.param(fresh.map(({ key }) => key))}::text[], ${sql.param(fresh.map(({ at }) => new Date(at)))}::timestamptz[]) AS n(key, at) GROUP BY key)
    SELECT e.id, h.subject AS key, (extract(epoch FROM e.sent_at) * 1000)::float8 AS at, e.family_id, cardinality(e.references) > 0 AS has_references, e.is_reply, e.is_forward, e.subject_parent_id,
      h.people AS externals, h.copied
    FROM wanted w JOIN thread_hashes h ON h.subject = w.key AND h.subject <> '' AND h.sent_at BETWEEN w.since AND w.until JOIN emails e ON e.id = h.email_id`,
  );
  const stored = rows.map((row) => ({ ...row, isNew: false }));

  const bySubject = new Map<string, ((typeof stored)[number] | (typeof fresh)[number])[]>();
  for (const item of [...stored, ...fresh]) {
    const group = bySubject.get(item.key);
    if (group) group.push(item);
    else bySubject.set(item.key, [item]);
  }
  const repointed: { id: number; parent: number }[] = [];
  for (const group of bySubject.values()) {
    const ordered = group.sort((first, second) => first.at - second.at || first.id - second.id);
    const firstNew = ordered.reduce((first, item) => (item.isNew ? Math.min(first, item.at) : first), Infinity);
    const byId = new Map(ordered.map((item) => [item.id, item]));
    const peers = new SubjectPeers();
    ordered.forEach((item) => {
      const { id, key, is_reply: isReply, is_forward: isForward, at, externals, copied } = item;
      const isSettled = item.has_references || (!item.isNew && at < firstNew);
      const found = isSettled ? null : peers.nearest({ subjectKey: key, hasReferences: false, isReply, isForward, at, externals, copied });
      peers.add({ conversation: String(id), at, externals, copied });
      if (found === null || Number(found) === item.subject_parent_id) return;
      const parent = byId.get(Number(found));
      if (!parent) return;
      families.join(item.family_id, parent.family_id);
      if (item.isNew) parents.set(item.id, parent.id);
      else repointed.push({ id: item.id, parent: parent.id });
    });
  }
  if (repointed.length > 0) {
    await tx.execute(
      sql`UPDATE emails e SET subject_parent_id = n.parent FROM unnest(${sql.param(repointed.map((item) => item.id))}::bigint[], ${sql.param(repointed.map((item) => item.parent))}::bigint[]) AS n(id, parent) WHERE e.id = n.id`,
    );
  }
  return parents;
}

async function movePointers(tx: Tx, moved: readonly { from: number; to: number }[]): Promise<void> {
  const from = sql.param(moved.map((item) => item.from));
  const to = sql.param(moved.map((item) => item.to));
  await tx.execute(
    sql`UPDATE emails e SET family_id = m.target FROM unnest(${from}::bigint[], ${to}::bigint[]) AS m(source, target) WHERE e.family_id = m.source`,
  );
  await tx.execute(
    sql`UPDATE thread_ids t SET family_id = m.target FROM unnest(${from}::bigint[], ${to}::bigint[]) AS m(source, target) WHERE t.family_id = m.source`,
  );
}

/** Disjoint sets of family ids; a set is named by its lowest id. */
class Families {
  private readonly parents = new Map<number, number>();

  of(id: number): number {
    let root = id;
    for (let next = this.parents.get(root); next !== undefined; next = this.parents.get(root)) root = next;
    let node = id;
    while (node !== root) {
      const next = this.parents.get(node) ?? root;
      this.parents.set(node, root);
      node = next;
    }
    return root;
  }

  join(item: number, other: number): void {
    const first = this.of(item);
    const second = this.of(other);
    if (first !== second) this.parents.set(Math.max(first, second), Math.min(first, second));
  }

  /** Sets that were given up for a lower one, the ids of new emails apart: nothing stored points there. */
  moved(fresh: ReadonlySet<number>): { from: number; to: number }[] {
    return [...this.parents.keys()].filter((id) => !fresh.has(id)).map((id) => ({ from: id, to: this.of(id) }));
  }
}
