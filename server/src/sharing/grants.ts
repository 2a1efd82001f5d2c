import { idRow, rowsOf } from '../base/db/rows';
import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { Grant, grantRequest, User } from '@fulvet/contract';
import { sql } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { announce } from '../base/live/changes';
import { recordName } from '../base/db/recordNames';
import type { Services } from '../base/services';
import { writeDown } from '../base/audit';
import type { ShareTarget } from './shareTarget';
import { demandKnown, emailsOfSubject, isAbout, subjectOf, targetRow } from './shareTarget';
import { widestShare } from './sharingChoices';

type SubjectRow = z.infer<typeof targetRow>;

/** Columns of a request or a grant, `g`, that say what it is about. */
export const SUBJECT_COLUMNS = sql`g.id, g.scope, g.email_id, g.record_kind, g.record_id, ${recordName(sql`g.record_kind`, sql`g.record_id`)} AS record_name,
  (SELECT c.subject FROM email_contents c WHERE c.email_id = g.email_id) AS subject, (SELECT e.sent_at FROM emails e WHERE e.id = g.email_id) AS sent_at, g.at`;

export const subjectFields = (row: SubjectRow): Pick<Grant, 'id' | 'scope' | 'emailId' | 'record' | 'subject' | 'sentAt' | 'at'> => ({
  id: row.id,
  scope: row.scope,
  emailId: row.email_id,
  record: row.record_kind === null ? null : { kind: row.record_kind, id: row.record_id ?? 0, name: row.record_name ?? '' },
  subject: row.subject,
  sentAt: row.sent_at,
  at: row.at,
});

export const asSubject = (row: SubjectRow): ShareTarget => ({
  scope: row.scope,
  emailId: row.email_id,
  record: row.record_kind === null ? null : { kind: row.record_kind, id: row.record_id ?? 0 },
});

export const userRow = z.object({ id: z.number(), name: z.string() });

/** Lets colleagues read mail of one's own. Those who read it so already are left as they are. */
export function giveGrants({ database }: Services, user: User, order: z.output<typeof grantRequest>): Promise<Grant[] | Refusal> {
  const about = subjectOf(order);
  return database.as(user.id, async (tx) => {
    const refused = await demandKnown(tx, about);
    if (isRefusal(refused)) return refused;
    const notOwn = await demandOwn(tx, user, about);
    if (isRefusal(notOwn)) return notOwn;
    if ((await widestShare(tx)) === 'owner')
      return new Refusal('forbidden', 'too-wide', 'The workspace does not let owners share by hand. Nothing was changed.');
    const people = await rowsOf(
      tx,
      userRow,
      sql`SELECT id, name FROM users WHERE id = ANY(${sql.param(order.to)}::bigint[]) AND active AND id <> ${user.id}`,
    );
    if (people.length < new Set(order.to).size) return notFound('member to share with');
    const made: number[] = [];
    for (const person of people) made.push(await give(tx, user, person, about));
    return (await grantsOf(tx, user.id)).given.filter((item) => made.includes(item.id));
  });
}

const emailRow = z.object({ own: z.number() });

export async function demandOwn(tx: Tx, user: User, about: ShareTarget): Promise<Refusal | null> {
  const rows = await rowsOf(
    tx,
    emailRow,
    sql`SELECT count(*)::int AS own FROM emails e WHERE ${emailsOfSubject(about)} AND ${user.id} = ANY(e.owner_ids)`,
  );
  if ((rows[0]?.own ?? 0) === 0)
    return new Refusal('forbidden', 'not-yours', 'Nothing of this is in a mailbox of yours, so you cannot share it. Nothing was changed.');
  return null;
}

/** Gives one grant, by the acting user. @returns its id, or that of the one that stands already */
export async function give(tx: Tx, user: User, to: { id: number; name: string }, about: ShareTarget): Promise<number> {
  const { scope, emailId, record } = about;
  const standing = await rowsOf(
    tx,
    idRow,
    sql`
    SELECT id FROM grants WHERE by_user_id = ${user.id} AND to_user_id = ${to.id} AND withdrawn_at IS NULL AND ${isAbout(about)}`,
  );
  if (standing[0]) return standing[0].id;
  const rows = await rowsOf(
    tx,
    idRow,
    sql`
    INSERT INTO grants (by_user_id, to_user_id, scope, email_id, record_kind, record_id) VALUES (${user.id}, ${to.id}, ${scope}, ${emailId}, ${record?.kind ?? null}, ${record?.id ?? null}) RETURNING id`,
  );
  await writeDown(tx, user, { kind: 'share', about: `let ${to.name} read ${await wordsFor(tx, about)}`, emailId, subjectId: to.id });
  await announce(tx, { kind: 'mail', to: [user.id, to.id], records: [] });
  return rows[0]?.id ?? 0;
}

const nameRow = z.object({ name: z.string().nullable() });

export async function wordsFor(tx: Tx, { scope, record }: ShareTarget): Promise<string> {
  if (scope === 'email') return 'an email';
  if (scope === 'conversation') return 'a conversation';
  // Names of people stay out of the log: who reads it may not know of them.
  if (record?.kind === 'contact' || record?.kind === 'lead') return `all own mail with a ${record.kind}`;
  const rows = await rowsOf(
    tx,
    nameRow,
    sql`SELECT ${recordName(sql`${record?.kind ?? ''}::text`, sql`${record?.id ?? 0}::bigint`)} AS name`,
  );
  return `all own mail of the ${record?.kind ?? ''} ${rows[0]?.name ?? ''}`;
}

const grantRow = targetRow.extend({
  to_user_id: z.number(),
});

/** Takes a grant back. */
export function takeGrantBack({ database }: Services, user: User, id: number): Promise<Refusal | null> {
  return database.as(user.id, async (tx) => {
    const rows = await rowsOf(
      tx,
      grantRow,
      sql`UPDATE grants g SET withdrawn_at = now() WHERE g.id = ${id} AND g.by_user_id = ${user.id} AND g.withdrawn_at IS NULL RETURNING g.to_user_id, g.id, g.scope, g.email_id, g.record_kind, g.record_id, g.at, NULL AS record_name, NULL AS subject, NULL AS sent_at`,
    );
    const [row] = rows;
    if (!row) return notFound('share of yours');
    await writeDown(tx, user, {
      kind: 'unshare',
      about: `took back ${await wordsFor(tx, asSubject(row))}`,
      emailId: row.email_id,
      subjectId: row.to_user_id,
    });
    await announce(tx, { kind: 'mail', to: [user.id, row.to_user_id], records: [] });
    return null;
  });
}

const grantsRow = targetRow.extend({
  by_id: z.number(),
  by_name: z.string(),
  to_id: z.number(),
  to_name: z.string(),
});

/** Grants that stand: what the user gave, and what they were given. */
export async function grantsOf(tx: Tx, userId: number): Promise<{ given: Grant[]; received: Grant[] }> {
  const rows = await rowsOf(
    tx,
    grantsRow,
    sql`
    SELECT ${SUBJECT_COLUMNS}, b.id AS by_id, b.name AS by_name, t.id AS to_id, t.name AS to_name
    FROM grants g JOIN users b ON b.id = g.by_user_id JOIN users t ON t.id = g.to_user_id WHERE g.withdrawn_at IS NULL AND ${userId} IN (g.by_user_id, g.to_user_id) ORDER BY g.id DESC LIMIT 500`,
  );
  const grants: Grant[] = [];
  for (const row of rows)
    grants.push({
      ...subjectFields(row),
      by: { id: row.by_id, name: row.by_name },
      to: { id: row.to_id, name: row.to_name },
      emails: await countOf(tx, asSubject(row), row.by_id),
    });
  return { given: grants.filter((grant) => grant.by.id === userId), received: grants.filter((grant) => grant.to.id === userId) };
}

const countRow = z.object({ emails: z.number() });

export async function countOf(tx: Tx, about: ShareTarget, ownerId: number): Promise<number> {
  const rows = await rowsOf(
    tx,
    countRow,
    sql`SELECT count(*)::int AS emails FROM emails e WHERE ${emailsOfSubject(about)} AND ${ownerId} = ANY(e.owner_ids)`,
  );
  return rows[0]?.emails ?? 0;
}
