import { repairs } from '../base/db/schema';
import { idRow, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal } from '../base/refusal';
import { mayBePersonIn } from '../base/db/personKey';
import type { RecordKind, RepairRequest, User } from '@fulvet/contract';
import type { repairRequest, RepairResult } from '@fulvet/contract';
import { sql, eq } from 'drizzle-orm';
import { z } from 'zod';
import { demandSeen } from '../records/seenRecords';
import type { Tx } from '../base/db/database';
import type { Pin } from '@fulvet/core';
import { decideFor } from '../base/concerned';
import { takeMailLock } from '../base/db/mailLock';
import { decideConversations } from '../decision/decideConversations';
import { RulebookInForce } from '../rulebook/rulebookInForce';
import type { Services } from '../base/services';
import { filingsByRules, noteCorrected } from './correctedFilings';
import { dealActivity, letScoresFollow } from './followScores';
import { offerFor } from './offer';
import { repairWords } from './repairWords';
import { addSecondAddresses } from './secondAddresses';
import { startRecords } from './startRecords';
import { noteStep } from '../base/undoLog';
import { undoRepairStep } from './undoRepairStep';
import { nounOf, tableOf } from '../records/kinds';

type Order = z.output<typeof repairRequest>;
interface Deed {
  does: Pin['does'];
  kind: RecordKind | null;
  id: number | null;
  /** About emails alone in which one of these addresses takes part. */
  addresses?: readonly string[];
}

/**
 * Puts emails right by hand as one step: notes the pins, creates the records that are asked for, and decides the conversations again, all in one
 * transaction. Further mail of created people and companies is decided by a job.
 */
export async function applyRepair(services: Services, user: User, order: Order): Promise<RepairResult | Refusal> {
  const { database, blobs, jobs } = services;
  const refused = await checkEntitled(services, user, order);
  if (isRefusal(refused)) return refused;
  const named = order.takeOff.flatMap(({ kind, id }) => (kind !== null && id !== null ? [{ kind, id }] : []));
  const principal = order.principal ? [order.principal] : [];
  const inEach = order.each?.entries.flatMap(({ file }) => (file ? [file] : [])) ?? [];
  const unseen = await database.as(user.id, (tx) =>
    demandSeen(tx, [...order.file, ...principal, ...inEach, ...order.secondAddresses, ...named]),
  );
  if (isRefusal(unseen)) return unseen;
  const inForce = await RulebookInForce.load(database);
  const done = await database.work(async (tx) => {
    await takeMailLock(tx);
    const rows = await rowsOf(
      tx,
      idRow,
      sql`INSERT INTO repairs (user_id, summary, emails, sealed) VALUES (${user.id}, '', ${order.emails.length}, ${order.seal}) RETURNING id`,
    );
    const repairId = rows[0]?.id ?? 0;
    const started = await startRecords(tx, user.id, order, inForce);
    if (isRefusal(started)) return started;
    const refused = await checkRecords(tx, [...order.file, ...principal, ...inEach, ...order.secondAddresses]);
    if (isRefusal(refused)) return refused;
    const second = await addSecondAddresses(tx, user.id, order.secondAddresses, inForce);
    if (isRefusal(second)) return second;
    const deeds: Deed[] = [
      ...order.file.map((item): Deed => ({ does: 'file', ...item })),
      ...(order.principal ? [{ does: 'principal', ...order.principal } as const] : []),
      ...started.file.map((item): Deed => ({ does: 'file', ...item })),
      ...order.takeOff.map((item): Deed => ({ does: 'takeOff', ...item })),
      ...(order.settle ? [{ does: 'settle', kind: null, id: null } as const] : []),
      ...(order.seal ? [{ does: 'seal', kind: null, id: null } as const] : []),
    ];
    const conversations = await pinEmails(tx, repairId, user.id, order, deeds);
    const summary = await repairWords(tx, order, conversations.length, deeds);
    await tx
      .update(repairs)
      .set({ summary, addresses: second, created: started.records.map(({ kind, id }) => ({ kind, id })) })
      .where(eq(repairs.id, repairId));
    await noteStep(tx, user.id, undoRepairStep, { summary, payload: { repairId } });
    const activity = await dealActivity(tx, conversations);
    // A seal says nothing about what the rules filed.
    const stood = order.seal ? [] : await filingsByRules(tx, conversations);
    const decided = await decideConversations(tx, blobs, conversations, inForce);
    await noteCorrected(tx, repairId, stood);
    const othersFollow = await letScoresFollow(tx, activity, conversations, inForce);
    return { repairId, summary, started, second, decided, othersFollow };
  });
  if (isRefusal(done)) return done;
  const { repairId, summary, started, second, decided, othersFollow } = done;
  const concerned = {
    addresses: [...started.addresses, ...second.map((address) => address.address), ...decided.addresses],
    domains: [...started.domains, ...decided.domains],
    ...(order.each ? { records: { kind: order.each.kind, ids: started.each } } : {}),
  };
  await decideFor(services, concerned);
  if (othersFollow) await jobs.decidePending();
  const offer = await database.as(user.id, (tx) => offerFor(tx, order, inForce.rulebooks[0]));
  return {
    id: repairId,
    summary,
    changed: decided.changed,
    created: started.records.map(({ kind, id, name }) => ({ kind, id, name })),
    offer,
  };
}

const emailRow = z.object({ readable: z.number(), owned: z.number() });

/** Whoever may read an email may put it right; its owners also where nothing is kept of what it says. A seal is its owners' alone. */
async function checkEntitled({ database }: Services, user: User, order: Pick<Order, 'emails' | 'seal'>): Promise<Refusal | null> {
  const rows = await database.as(user.id, (tx) =>
    rowsOf(
      tx,
      emailRow,
      sql`
      SELECT count(*) FILTER (WHERE c.email_id IS NOT NULL OR ${user.id} = ANY(e.owner_ids))::int AS readable, count(*) FILTER (WHERE ${user.id} = ANY(e.owner_ids))::int AS owned
      FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id WHERE e.id = ANY(${sql.param(order.emails)}::bigint[])`,
    ),
  );
  const wanted = new Set(order.emails).size;
  if ((rows[0]?.readable ?? 0) < wanted)
    return new Refusal(
      'forbidden',
      'not-yours',
      'Some of these emails are not yours to read, so they are not yours to put right. Nothing was changed.',
    );
  if (order.seal && (rows[0]?.owned ?? 0) < wanted)
    return new Refusal('forbidden', 'not-yours', 'Only who has an email in a mailbox of their own can seal it. Nothing was changed.');
  return null;
}

async function checkRecords(tx: Tx, records: readonly NonNullable<RepairRequest['file']>[number][]): Promise<Refusal | null> {
  for (const { kind, id } of records) {
    const { rows } = await tx.execute(sql`SELECT FROM ${tableOf(kind)} WHERE id = ${id}`);
    if (rows.length === 0) return new Refusal('unknown', 'not-found', `There is no such ${nounOf(kind)} any more. Nothing was changed.`);
  }
  return null;
}

const pinEmailsRow = z.object({ id: z.number(), conversation_id: z.number() });

/**
 * Notes the pins: for each deed, of the emails that it is about, all of them, or the first of each conversation where it reaches beyond single emails.
 *
 * @returns the conversations of all emails
 */
async function pinEmails(tx: Tx, repairId: number, userId: number, order: Order, deeds: readonly Deed[]): Promise<number[]> {
  const rows = await rowsOf(
    tx,
    pinEmailsRow,
    sql`SELECT id, conversation_id FROM emails WHERE id = ANY(${sql.param(order.emails)}::bigint[]) ORDER BY sent_at, id`,
  );
  const conversations = [...new Set(rows.map((row) => row.conversation_id))];
  const ids = rows.map((row) => row.id);
  const per = order.reach === 'email' ? sql`e.id` : sql`e.conversation_id`;
  // The moment of saying, not of the transaction's beginning: one after another is later.
  await tx.execute(sql`INSERT INTO pins (repair_id, user_id, email_id, does, kind, record_id, reach, at)
    SELECT ${repairId}::bigint, ${userId}::bigint, a.id, a.does, a.kind, a.record_id, ${order.reach}, clock_timestamp()
    FROM (SELECT DISTINCT ON (d.at, ${per}) d.at, e.id, e.sent_at, d.does, d.kind, d.id AS record_id FROM emails e,
        ROWS FROM (json_to_recordset(${JSON.stringify(deeds)}::json) AS (does text, kind text, id bigint, addresses json)) WITH ORDINALITY AS d(does, kind, id, addresses, at)
      WHERE e.id = ANY(${sql.param(ids)}::bigint[]) AND (d.addresses IS NULL OR EXISTS (SELECT FROM participants p
        WHERE p.email_id = e.id AND ${mayBePersonIn(sql`p.address`, sql`ARRAY(SELECT json_array_elements_text(d.addresses))`)}))
      ORDER BY d.at, ${per}, e.sent_at, e.id) a ORDER BY a.sent_at, a.id, a.at`);
  const pinned =
    order.reach === 'email'
      ? sql`id = ANY(${sql.param(ids)}::bigint[])`
      : sql`conversation_id = ANY(${sql.param(conversations)}::bigint[])`;
  // A run over past mail that is under way sees by this that they were decided since.
  await tx.execute(sql`UPDATE emails SET decided_at = NULL WHERE ${pinned}`);
  return conversations;
}
