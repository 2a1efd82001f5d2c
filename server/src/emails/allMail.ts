import { rowsOf } from '../base/db/rows';
import { cursorParts } from '../base/cursor';
import { MOST_COUNTED, MOST_FOUND } from '@fulvet/contract';
import type { emailQuery } from '@fulvet/contract';
import { addressKey } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { Tx } from '../base/db/database';
import { isAnswered } from '../records/unanswered';
import { openedEmails } from './measures';
import { isDamaged } from './damagedSources';
import { domainMail } from './domainMail';

type Query = z.output<typeof emailQuery>;
const SEARCH_LIMIT = 20_000;

/** Where nothing is found, the count alone. */
const pageRow = z.object({ id: z.number().nullable(), at: z.number().nullable(), total: z.number() });

const emailRow = z.object({ total: z.number() });

/** Ids of one page of all mail, the cursor of the next, and how many there are in all, or at least are. */
export interface AllMailPage {
  ids: number[];
  next: string | null;
  total: number;
  isMore: boolean;
}

export async function allMailPage(tx: Tx, query: Query): Promise<AllMailPage> {
  const asked = conditions(query);
  if (query.opened) asked.push(sql`e.id = ANY(${sql.param(await openedEmails(tx, query.opened))}::bigint[])`);
  const where = sql.join([sql`true`, ...asked], sql` AND `);
  const cursor = query.after === undefined ? sql`true` : afterCursor(query.after);
  if (query.text && asked.length === 1) return foundPage(tx, query.text, query);
  const page = sql`SELECT e.id, (extract(epoch FROM e.sent_at) * 1000000)::int8 AS at`;
  const order = sql`ORDER BY e.sent_at DESC, e.id DESC LIMIT ${query.limit + 1}`;
  if (query.text) {
    // The text is looked through once, for the page and for the count.
    const found = sql`WITH e AS MATERIALIZED (SELECT e.id, e.sent_at FROM emails e WHERE ${where})`;
    const rows = await rowsOf(
      tx,
      pageRow,
      sql`${found} SELECT p.*, t.total FROM (SELECT count(*)::int AS total FROM e) t LEFT JOIN LATERAL (${page} FROM e WHERE ${cursor} ${order}) p ON true`,
    );
    const total = rows[0]?.total ?? 0;
    return pageOf(
      rows.flatMap(({ id, at }) => (id === null || at === null ? [] : [{ id, at }])),
      query.limit,
      countedTo(MOST_FOUND, total),
    );
  }
  const rows = await rowsOf(tx, placeRow, sql`${page} FROM emails e WHERE ${where} AND ${cursor} ${order}`);
  const some = sql`SELECT FROM emails e WHERE ${where} LIMIT ${MOST_COUNTED + 1}`;
  const counted = await rowsOf(tx, emailRow, sql`SELECT count(*)::int AS total FROM (${some}) n`);
  return pageOf(rows, query.limit, countedTo(MOST_COUNTED, counted[0]?.total ?? 0));
}

const countedTo = (most: number, total: number): Pick<AllMailPage, 'total' | 'isMore'> => ({
  total: Math.min(total, most),
  isMore: total > most,
});

const foundRow = z.object({ id: z.number(), at: z.number(), total: z.number(), isMore: z.boolean() });

/** A page of the emails that say these words, with no other condition. */
async function foundPage(tx: Tx, words: string, { after, limit }: Pick<Query, 'after' | 'limit'>): Promise<AllMailPage> {
  const [us, id] = after === undefined ? [null, null] : cursorParts(after);
  const rows = await rowsOf(
    tx,
    foundRow,
    sql`SELECT s.email_id AS id, (extract(epoch FROM s.sent_at) * 1000000)::int8 AS at, s.total, is_more AS "isMore"
      FROM fulvet_search_page(${words}, ${limit + 1}, to_timestamp(${us}::numeric / 1000000), ${id}::bigint) s`,
  );
  return pageOf(rows, limit, { total: rows[0]?.total ?? 0, isMore: rows[0]?.isMore ?? false });
}

const searched = (words: string): SQL => sql`fulvet_search_emails(${words}, ${SEARCH_LIMIT})`;

const placeRow = z.object({ id: z.number(), at: z.number() });
type Row = z.infer<typeof placeRow>;

function pageOf(rows: readonly Row[], limit: number, counted: Pick<AllMailPage, 'total' | 'isMore'>): AllMailPage {
  const page = rows.slice(0, limit);
  const last = page.at(-1);
  return { ids: page.map((row) => row.id), next: rows.length > limit && last ? `${last.at}.${last.id}` : null, ...counted };
}

function afterCursor(cursor: string): SQL {
  const [us, id] = cursorParts(cursor);
  return sql`(e.sent_at, e.id) < (to_timestamp(${us}::numeric / 1000000), ${id}::bigint)`;
}

/** Emails that a rule filed, and those from which people took such a filing away by hand. */
function byRule(rule: string | undefined, corrected: 'yes' | 'no' | undefined): SQL {
  const is = rule === undefined ? sql`true` : sql`rule = ${rule}`;
  const standing = sql`e.id IN (SELECT email_id FROM filings WHERE ${is})`;
  const taken = sql`e.id IN (SELECT email_id FROM corrected_filings WHERE ${is})`;
  return corrected === undefined ? sql`(${standing} OR ${taken})` : corrected === 'yes' ? taken : standing;
}

const wasAnswered = isAnswered(sql`e`);

function conditions(query: Query): SQL[] {
  const found: SQL[] = [];
  if (query.outcome) {
    const wanted = query.outcome.split(',').map((part) => part.trim());
    found.push(
      wanted.includes('undecided')
        ? sql`(e.outcome IS NULL OR e.outcome = ANY(${sql.param(wanted)}::text[]))`
        : sql`e.outcome = ANY(${sql.param(wanted)}::text[])`,
    );
  }
  if (query.mailbox)
    found.push(
      sql`EXISTS (SELECT FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id WHERE s.email_id = e.id AND m.address = lower(${query.mailbox}))`,
    );
  if (query.person)
    found.push(
      sql`e.id IN (SELECT email_id FROM fulvet_emails_with_address(${addressKey(query.person, { tagsTellApart: true })?.key ?? query.person}))`,
    );
  if (query.domain) found.push(sql`e.id IN (SELECT email_id FROM (${domainMail(query.domain)}) m)`);
  if (query.mailClass) found.push(sql`e.mail_class = ${query.mailClass}`);
  // What is still to come stands before all mail only where it is asked for.
  else if (!query.from && !query.until && !query.conversation) found.push(sql`(e.mail_class <> 'event' OR e.sent_at <= now())`);
  if (query.direction) found.push(sql`e.direction = ${query.direction}`);
  if (query.from) found.push(sql`e.sent_at >= ${query.from}::date`);
  if (query.until) found.push(sql`e.sent_at < ${query.until}::date + 1`);
  if (query.text) found.push(sql`e.id IN (SELECT email_id FROM ${searched(query.text)} s)`);
  if (query.conversation) found.push(sql`e.conversation_id = ${query.conversation}`);
  if (query.answered)
    found.push(
      sql`e.direction = 'sent' AND e.mail_class = 'person' AND ${query.answered === 'yes' ? wasAnswered : sql`NOT ${wasAnswered}`}`,
    );
  if (query.mine) found.push(sql`(SELECT fulvet_acting_user()) = ANY(e.owner_ids)`);
  if (query.applied) found.push(sql`e.steps @> ${JSON.stringify([{ rule: query.applied }])}::jsonb`);
  if (query.rule || query.corrected) found.push(byRule(query.rule, query.corrected));
  if (query.problems) found.push(query.problems === 'damaged' ? isDamaged : sql`e.problems <> '[]'::jsonb`);
  return found;
}
