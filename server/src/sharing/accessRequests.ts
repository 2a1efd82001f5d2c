import { accessRequests } from '../base/db/schema';
import { idRow, moment, rowsOf } from '../base/db/rows';
import { recordKind } from '@fulvet/contract';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { AccessRequest, accessAsk, RecordKind, User } from '@fulvet/contract';
import { sql, eq } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { announce } from '../base/live/changes';
import { recordName } from '../base/db/recordNames';
import type { Services } from '../base/services';
import { writeDown } from '../base/audit';
import type { ShareTarget } from './shareTarget';
import { demandKnown, emailsOfSubject, isAbout, subjectOf, targetRow } from './shareTarget';
import { SUBJECT_COLUMNS, subjectFields, asSubject, userRow, demandOwn, give, wordsFor, countOf } from './grants';

/** Asks the owners of what the acting user knows to exist and may not read. */
export function askOwners(
  { database }: Services,
  user: User,
  order: z.output<typeof accessAsk>,
): Promise<{ id: number; owner: string }[] | Refusal> {
  const about = subjectOf(order);
  return database.as(user.id, async (tx) => {
    const refused = await demandKnown(tx, about);
    if (isRefusal(refused)) return refused;
    const owners = await rowsOf(
      tx,
      userRow,
      sql`
      SELECT DISTINCT u.id, u.name FROM emails e CROSS JOIN unnest(e.owner_ids) AS o(id) JOIN users u ON u.id = o.id AND u.active
      WHERE ${emailsOfSubject(about)} AND e.outcome <> 'kept out' AND NOT EXISTS (SELECT FROM email_contents c WHERE c.email_id = e.id) ORDER BY u.name`,
    );
    if (owners.length === 0)
      return new Refusal('conflict', 'nothing-to-ask', 'There is nothing here that you know of and may not read already.');
    const asked: { id: number; owner: string }[] = [];
    for (const owner of owners) {
      const open = await rowsOf(
        tx,
        idRow,
        sql`
        SELECT id FROM access_requests WHERE asked_by = ${user.id} AND owner_id = ${owner.id} AND state = 'open' AND ${isAbout(about)}`,
      );
      const made =
        open[0] ??
        (
          await rowsOf(
            tx,
            idRow,
            sql`
        INSERT INTO access_requests (asked_by, owner_id, scope, email_id, record_kind, record_id, note) VALUES (${user.id}, ${owner.id}, ${about.scope}, ${about.emailId}, ${about.record?.kind ?? null}, ${about.record?.id ?? null}, ${order.note}) RETURNING id`,
          )
        )[0];
      asked.push({ id: made?.id ?? 0, owner: owner.name });
      if (open[0]) continue;
      await writeDown(tx, user, {
        kind: 'ask',
        about: `asked ${owner.name} to read ${await wordsFor(tx, about)}`,
        emailId: about.emailId,
        subjectId: owner.id,
      });
    }
    await announce(tx, { kind: 'mail', to: owners.map((owner) => owner.id), records: [] });
    return asked;
  });
}

const accessRequestRow = targetRow.extend({
  asker_id: z.number(),
  asker_name: z.string(),
  owner_id: z.number(),
  owner_name: z.string(),
  note: z.string(),
  state: z.enum(['open', 'shared', 'declined', 'withdrawn']),
  answered_at: moment.nullable(),
});

const filingRow = z.object({ kind: recordKind, id: z.number(), name: z.string() });

/** Requests that the acting user is to answer, or made; those that are settled of the last 30 days. */
export async function requestsOf(tx: Tx, userId: number, id?: number): Promise<AccessRequest[]> {
  const rows = await rowsOf(
    tx,
    accessRequestRow,
    sql`
    SELECT ${SUBJECT_COLUMNS}, a.id AS asker_id, a.name AS asker_name, o.id AS owner_id, o.name AS owner_name, g.note, g.state, g.answered_at
    FROM access_requests g JOIN users a ON a.id = g.asked_by JOIN users o ON o.id = g.owner_id
    WHERE ${id === undefined ? sql`(g.state = 'open' OR g.at > now() - interval '30 days')` : sql`g.id = ${id}`} ORDER BY g.state = 'open' DESC, g.id DESC LIMIT 300`,
  );
  const found: AccessRequest[] = [];
  for (const row of rows) {
    const records = await rowsOf(
      tx,
      filingRow,
      sql`SELECT f.kind, f.record_id AS id, ${recordName(sql`f.kind`, sql`f.record_id`)} AS name FROM filings f WHERE f.email_id = ${row.email_id} ORDER BY f.kind, f.record_id`,
    );
    found.push({
      ...subjectFields(row),
      askedBy: { id: row.asker_id, name: row.asker_name },
      owner: { id: row.owner_id, name: row.owner_name },
      note: row.note,
      state: row.state,
      answeredAt: row.answered_at,
      records: records.filter((record) => record.name !== null),
      emails: row.owner_id === userId ? await countOf(tx, asSubject(row), userId) : 0,
    });
  }
  return found;
}

type Answer = { answer: 'asked' | 'email' | 'conversation' | 'record' | 'decline'; record?: { kind: RecordKind; id: number } | undefined };

/** The owner's answer: a grant as far as they say, or none. */
export function answerRequest(
  { database }: Services,
  user: User,
  id: number,
  { answer, record }: Answer,
): Promise<AccessRequest | Refusal> {
  return database.as(user.id, async (tx) => {
    const rows = await rowsOf(
      tx,
      accessRequestRow,
      sql`
      SELECT ${SUBJECT_COLUMNS}, g.asked_by AS asker_id, a.name AS asker_name, g.owner_id, '' AS owner_name, g.note, g.state, g.answered_at FROM access_requests g JOIN users a ON a.id = g.asked_by WHERE g.id = ${id} AND g.owner_id = ${user.id}`,
    );
    const [row] = rows;
    if (!row) return notFound('request to you');
    if (row.state !== 'open') return new Refusal('conflict', 'answered', `This request is settled already: ${row.state}.`);
    const asked = asSubject(row);
    if (answer === 'decline') {
      await tx
        .update(accessRequests)
        .set({ state: 'declined', answeredAt: sql`now()` })
        .where(eq(accessRequests.id, id));
      await writeDown(tx, user, {
        kind: 'decline',
        about: `declined to let ${row.asker_name} read ${await wordsFor(tx, asked)}`,
        emailId: row.email_id,
        subjectId: row.asker_id,
      });
      await announce(tx, { kind: 'mail', to: [row.asker_id, user.id], records: [] });
    } else {
      const about: ShareTarget =
        answer === 'asked'
          ? asked
          : answer === 'record'
            ? { scope: 'record', emailId: null, record: record ?? asked.record }
            : { scope: answer, emailId: asked.emailId, record: null };
      if ((about.scope === 'record') !== (about.record !== null) || (about.scope !== 'record' && about.emailId === null))
        return new Refusal('unfit', 'bad-input', 'Say which record, or answer as it was asked for.', { record: 'is missing' });
      const refused = await demandKnown(tx, about);
      if (isRefusal(refused)) return refused;
      const notOwn = await demandOwn(tx, user, about);
      if (isRefusal(notOwn)) return notOwn;
      const grantId = await give(tx, user, { id: row.asker_id, name: row.asker_name }, about);
      await tx
        .update(accessRequests)
        .set({ state: 'shared', answeredAt: sql`now()`, grantId })
        .where(eq(accessRequests.id, id));
    }
    const [answered] = await requestsOf(tx, user.id, id);
    if (!answered) return notFound('request to you');
    return answered;
  });
}

const requestStateRow = z.object({ state: z.string(), owner_id: z.number() });

export function withdrawRequest({ database }: Services, user: User, id: number): Promise<Refusal | null> {
  return database.as(user.id, async (tx) => {
    const rows = await rowsOf(
      tx,
      requestStateRow,
      sql`SELECT state, owner_id FROM access_requests WHERE id = ${id} AND asked_by = ${user.id}`,
    );
    const [row] = rows;
    if (!row) return notFound('request of yours');
    if (row.state !== 'open') return new Refusal('conflict', 'answered', `This request is settled already: ${row.state}.`);
    await tx
      .update(accessRequests)
      .set({ state: 'withdrawn', answeredAt: sql`now()` })
      .where(eq(accessRequests.id, id));
    await announce(tx, { kind: 'mail', to: [row.owner_id], records: [] });
    return null;
  });
}
