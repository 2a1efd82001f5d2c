import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { z } from 'zod';
import type { RecipientFound } from '@fulvet/contract';
import { containing } from '../base/db/like';
import type { Tx } from '../base/db/database';
import { rowsOf } from '../base/db/rows';
import { PEOPLE_OF } from '../records/kinds';

const MOST_FOUND = 12;
const MOST_USUAL = 4;
const MOST_TOGETHER = 20;
const MOST_LOOKED_AT = 60;

const foundRow = z.object({ name: z.string(), address: z.string(), hint: z.string() });

/**
 * People whom the acting user can write to: first those who usually get an email together with its recipients so far, then those of a record, then whoever
 * has a part of the text in name or address.
 *
 * @param written.with addresses with commas between them
 */
export async function findRecipients(
  tx: Tx,
  { text, record, with: written }: { text: string; record?: string | undefined; with: string },
): Promise<RecipientFound[]> {
  const addresses = written
    .toLowerCase()
    .split(',')
    .filter((address) => address.includes('@'))
    .slice(0, MOST_TOGETHER);
  const usual = addresses.length === 0 ? [] : await rowsOf(tx, foundRow, usuallyTogether(addresses, text));
  const ofRecord = record === undefined ? null : await rowsOf(tx, foundRow, peopleOf(record, text));
  const found = text.length < 2 ? [] : await rowsOf(tx, foundRow, byText(text));
  const byAddress = new Map([...usual, ...(ofRecord ?? []), ...found].reverse().map((person) => [person.address, person]));
  return [...byAddress.values()].reverse().slice(0, MOST_FOUND);
}

const PERSON = sql`a.address, coalesce(c.name, l.name, '') AS name, coalesce(k.name, nullif(l.company, ''), '') AS hint
  FROM person_addresses a LEFT JOIN contacts c ON a.kind = 'contact' AND c.id = a.person_id LEFT JOIN leads l ON a.kind = 'lead' AND l.id = a.person_id LEFT JOIN accounts k ON k.id = c.account_id`;

/**
 * External people who got at least two, and a third, of the last emails that were sent to one of these addresses within a year, of those that the acting
 * user may see.
 */
function usuallyTogether(addresses: readonly string[], text: string): SQL {
  const like = containing(text);
  const those = sql`${sql.param([...addresses])}::text[]`;
  return sql`WITH last AS MATERIALIZED (
      SELECT e.id FROM emails e WHERE e.direction = 'sent' AND e.sent_at > now() - interval '1 year'
        AND e.id IN (SELECT p.email_id FROM participants p WHERE p.address = ANY(${those}) AND p.role IN ('to', 'cc')) ORDER BY e.sent_at DESC LIMIT ${MOST_LOOKED_AT})
    SELECT p.address, max(p.name) AS name, 'usually gets a copy' AS hint FROM last JOIN participants p ON p.email_id = last.id AND p.role IN ('to', 'cc')
    WHERE p.address <> ALL(${those}) AND (p.address ILIKE ${like} OR p.name ILIKE ${like}) AND NOT EXISTS (SELECT FROM users u WHERE lower(u.email) = p.address)
    GROUP BY 1 HAVING count(DISTINCT last.id) >= greatest(2, (SELECT count(*) FROM last) / 3.0) ORDER BY count(DISTINCT last.id) DESC, 1 LIMIT ${MOST_USUAL}`;
}

function peopleOf(record: string, text: string): SQL {
  const [kind = '', id = ''] = record.split(':');
  const which =
    kind === 'account'
      ? sql`a.kind = 'contact' AND c.account_id = ${Number(id)}`
      : kind === 'deal' || kind === 'own'
        ? sql`EXISTS (SELECT FROM ${PEOPLE_OF[kind].table} p WHERE p.${PEOPLE_OF[kind].id} = ${Number(id)} AND p.kind = a.kind AND p.person_id = a.person_id)`
        : sql`a.kind = ${kind} AND a.person_id = ${Number(id)}`;
  const like = containing(text);
  return sql`SELECT ${PERSON} WHERE ${which} AND coalesce(c.id, l.id) IS NOT NULL AND (a.address ILIKE ${like} OR coalesce(c.name, l.name) ILIKE ${like}) ORDER BY name, a.position LIMIT ${MOST_FOUND}`;
}

/** Each part goes by its own index. */
function byText(text: string): SQL {
  const like = containing(text);
  const part = (which: SQL): SQL => sql`(SELECT ${PERSON} WHERE ${which} LIMIT ${MOST_FOUND})`;
  return sql`SELECT address, name, hint FROM (
      ${part(sql`a.kind = 'contact' AND a.person_id IN (SELECT id FROM contacts WHERE name ILIKE ${like} LIMIT ${MOST_FOUND})`)}
      UNION ${part(sql`a.kind = 'lead' AND a.person_id IN (SELECT id FROM leads WHERE name ILIKE ${like} LIMIT ${MOST_FOUND})`)}
      UNION ${part(sql`a.address ILIKE ${like} AND coalesce(c.id, l.id) IS NOT NULL`)}
      UNION (SELECT lower(email), name, 'colleague' FROM users WHERE active AND (name ILIKE ${like} OR email ILIKE ${like}) LIMIT ${MOST_FOUND})) found
    ORDER BY hint = 'colleague', name, address LIMIT ${MOST_FOUND}`;
}
